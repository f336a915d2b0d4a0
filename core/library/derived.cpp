#include "core/library/derived.h"

#include <cstdio>
#include <cstring>

#include "core/base/sha256.h"
#include "core/library/whole_files.h"
#include "core/library/writer_lock.h"
#include "core/recording/recording_file.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;

/// At the head of a file: what it is and what it was made from. The digest of the file's bytes stands in its name's
/// note, so that damage is found before a number is taken from it.
struct Head {
    char what[16] = "rendak derived";
    char key[65] = {};
};
static_assert(sizeof(Head) <= Derived::begin);

fs::path digest_file(const fs::path& file) {
    fs::path out = file;
    out += ".digest";
    return out;
}

}  // namespace

Derived::Derived(fs::path library, std::string recording_digest, RunId run, const std::string& key)
    : library_(std::move(library)),
      of_run_(std::move(recording_digest) + "-" + std::to_string(run.value) + "-"),
      key_(sha256_of(key)) {
    file_ = library_ / "derived" / (of_run_ + key_.substr(0, 16) + ".path");
}

std::shared_ptr<const MappedFile> Derived::open() const {
    const auto digest = read_text_file(digest_file(file_), 256);
    if (!digest) return nullptr;
    const WholeFiles whole(library_);
    if (!whole.holds(file_, *digest)) {
        const auto bytes = file_digest(file_);
        if (!bytes || *bytes != *digest) return nullptr;
        whole.add(file_, *digest, true);
    }
    auto mapped = MappedFile::open(file_);
    if (!mapped || (*mapped)->size() < begin) return nullptr;
    Head head;
    std::memcpy(&head, (*mapped)->data(), sizeof head);
    const Head wanted;
    const bool fits = std::memcmp(head.what, wanted.what, sizeof head.what) == 0 &&
                      std::memcmp(head.key, key_.c_str(), key_.size() + 1) == 0;
    return fits ? *mapped : nullptr;
}

void Derived::put(const std::function<bool(std::FILE*)>& write) const {
    const WriterLock lock(library_, WriterLock::Kind::shared);
    if (!lock.held()) return;
    std::error_code ignored;
    fs::create_directory(library_ / "derived", ignored);
    auto output = OutputFile::begin(file_);
    if (!output) return;
    {
        const std::unique_ptr<std::FILE, decltype(&std::fclose)> file(std::fopen(output->part().c_str(), "wbx"),
                                                                      std::fclose);
        if (file == nullptr) return;
        char first[begin] = {};
        Head head;
        std::memcpy(head.key, key_.c_str(), key_.size() + 1);
        std::memcpy(first, &head, sizeof head);
        if (std::fwrite(first, 1, sizeof first, file.get()) != sizeof first || !write(file.get()) ||
            std::fflush(file.get()) != 0)
            return;
    }
    const auto digest = file_digest(output->part());
    if (!digest) return;
    for (fs::directory_iterator at(library_ / "derived", ignored), end; !ignored && at != end; at.increment(ignored)) {
        if (at->path().filename().string().starts_with(of_run_)) {
            std::error_code gone;
            fs::remove(at->path(), gone);
        }
    }
    // Without its digest the file counts as not there: killed in between, it is computed again.
    if (!output->finish() || !write_file(digest_file(file_), *digest)) return;
    WholeFiles(library_).add(file_, *digest, true);
}

void Derived::sweep(const fs::path& library, const std::function<bool(const std::string&)>& is_known) {
    std::error_code code;
    for (fs::directory_iterator at(library / "derived", code), end; !code && at != end; at.increment(code)) {
        const std::string name = at->path().filename().string();
        const std::string digest = name.substr(0, name.find_first_of("-."));
        if (!is_temporary_name(at->path()) && is_known(digest)) continue;
        std::error_code gone;
        fs::remove(at->path(), gone);
    }
}

}  // namespace rendak
