#include "core/base/sha256.h"

#include <openssl/evp.h>

#include <array>

#include "core/base/file_io.h"

namespace rendak {

struct Sha256::State {
    EVP_MD_CTX* context = EVP_MD_CTX_new();
    ~State() { EVP_MD_CTX_free(context); }
};

Sha256::Sha256() : state_(std::make_unique<State>()) {
    EVP_DigestInit_ex(state_->context, EVP_sha256(), nullptr);
}

Sha256::~Sha256() = default;

void Sha256::add(std::string_view bytes) {
    EVP_DigestUpdate(state_->context, bytes.data(), bytes.size());
}

std::string Sha256::hex() {
    std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
    unsigned size = 0;
    EVP_DigestFinal_ex(state_->context, digest.data(), &size);
    std::string out;
    for (unsigned i = 0; i < size; ++i) {
        constexpr const char* digits = "0123456789abcdef";
        out += digits[digest[i] >> 4];
        out += digits[digest[i] & 15];
    }
    return out;
}

std::string sha256_of(std::string_view text) {
    Sha256 digest;
    digest.add(text);
    return digest.hex();
}

bool is_hex(std::string_view text, std::size_t digits) {
    return text.size() == digits && text.find_first_not_of("0123456789abcdef") == std::string_view::npos;
}

Result<std::string> sha256_of_file(const std::filesystem::path& file, const JobContext& job) {
    const auto mapping = MappedFile::open(file);
    if (!mapping) return pass_on(mapping.error());
    Sha256 digest;
    constexpr std::size_t block = 4U << 20;
    const std::string_view all = (*mapping)->text();
    for (std::size_t at = 0; at < all.size(); at += block) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.", file.string());
        digest.add(all.substr(at, block));
        job.report(static_cast<double>(at) / static_cast<double>(all.size()));
    }
    return digest.hex();
}

}  // namespace rendak
