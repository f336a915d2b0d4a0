#include "core/base/growing_digest.h"

#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <string_view>
#include <variant>
#include <vector>

#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/base/xxh3.h"

namespace rendak {
namespace {

/// Read at once; waking the reader for less would cost more than the reading.
constexpr std::uint64_t block = 1U << 20;

}  // namespace

GrowingDigest::GrowingDigest(std::filesystem::path file, std::uint64_t begun, DigestKind kind)
    : file_(std::move(file)),
      kind_(kind),
      grown_(begun),
      reader_([this](const std::stop_token& stop) { read_along(stop); }) {}

GrowingDigest::~GrowingDigest() = default;

void GrowingDigest::grown_to(std::uint64_t bytes) {
    const std::scoped_lock lock(mutex_);
    grown_ = std::max(grown_, bytes);
    if (grown_ >= read_ + block) changed_.notify_all();
}

void GrowingDigest::read_along(const std::stop_token& stop) {
    std::variant<Sha256, Xxh3> digest;
    if (kind_ == DigestKind::xxh3) digest.emplace<Xxh3>();
    std::vector<char> bytes(block);
    std::optional<Descriptor> open;
    const auto end_with = [&](Result<std::string> result) {
        const std::scoped_lock lock(mutex_);
        digest_ = std::move(result);
        changed_.notify_all();
    };
    for (;;) {
        std::uint64_t from = 0, to = 0;
        {
            std::unique_lock lock(mutex_);
            if (!changed_.wait(lock, stop, [&] { return grown_ >= read_ + block || complete_; })) return;
            from = read_;
            to = std::min(grown_, from + block);
        }
        if (from == to) return end_with(std::visit([](auto& kind) { return kind.hex(); }, digest));
        if (!open) {
            auto opened = open_regular(file_);
            if (!opened) return end_with(pass_on(opened.error()));
            open.emplace(std::move(*opened));
        }
        const ssize_t n = ::pread(open->fd(), bytes.data(), to - from, static_cast<off_t>(from));
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return end_with(pass_on(io_error("read", file_, errno)));
        if (n == 0)
            return end_with(fail(ErrorCode::io, "The file became shorter while it was written.", file_.string()));
        const std::string_view arrived(bytes.data(), static_cast<std::size_t>(n));
        std::visit([&](auto& kind) { kind.add(arrived); }, digest);
        const std::scoped_lock lock(mutex_);
        read_ += static_cast<std::uint64_t>(n);
        changed_.notify_all();
    }
}

Result<std::string> GrowingDigest::finish(const JobContext& job) {
    std::unique_lock lock(mutex_);
    complete_ = true;
    changed_.notify_all();
    while (!digest_) {
        const std::uint64_t before = read_;
        if (!changed_.wait(lock, job.stop, [&] { return digest_ || read_ != before; }))
            return fail(ErrorCode::cancelled, "Cancelled.", file_.string());
        if (grown_ > 0) job.report(static_cast<double>(read_) / static_cast<double>(grown_));
    }
    return *digest_;
}

}  // namespace rendak
