#include "core/logger/fetch.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <chrono>
#include <condition_variable>
#include <ctime>
#include <mutex>

#include "core/base/file_io.h"
#include "core/base/growing_digest.h"
#include "core/base/sha256.h"
#include "core/base/text.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;

/// Waits, but not for a user who has given up.
void wait(double seconds, const JobContext& job) {
    std::mutex mutex;
    std::condition_variable_any done;
    std::unique_lock lock(mutex);
    done.wait_for(lock, job.stop, std::chrono::duration<double>(seconds), [] { return false; });
}

/// Only the last part of a name that came from outside, and no hidden file.
std::string safe_name(const LoggedFile& file) {
    std::string name = fs::path(printable(file.name)).filename().string();
    for (char& c : name) {
        if (static_cast<unsigned char>(c) < 32 || c == '/' || c == '\\') c = '_';
    }
    while (!name.empty() && name.front() == '.') name.erase(0, 1);
    return name.empty() ? "recording-" + std::to_string(file.number) : utf8_of(name.substr(0, 120));
}

class Writer {
  public:
    explicit Writer(const fs::path& file)
        : file_(file), fd_(::open(file.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644)) {}
    ~Writer() {
        if (fd_ >= 0) ::close(fd_);
    }
    Writer(const Writer&) = delete;
    Writer& operator=(const Writer&) = delete;
    [[nodiscard]] bool open() const { return fd_ >= 0; }
    bool write(std::string_view bytes) {
        while (!bytes.empty()) {
            const ssize_t n = ::write(fd_, bytes.data(), bytes.size());
            if (n < 0 && errno == EINTR) continue;
            if (n <= 0) {
                error_ = errno;
                return false;
            }
            bytes.remove_prefix(static_cast<std::size_t>(n));
        }
        return true;
    }
    [[nodiscard]] int error() const { return error_; }

  private:
    fs::path file_;
    int fd_, error_ = 0;
};

/// One process at a time fetches a recording. Taken away with the object, and by the system when the process dies.
class FetchLock {
  public:
    FetchLock(const fs::path& file, const JobContext& job) : file_(file) {
        while (!job.stopped()) {
            fd_ = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
            if (fd_ < 0) return;
            struct stat own {
            }, there{};
            const bool locked = ::flock(fd_, LOCK_EX | LOCK_NB) == 0;
            // The one before may have taken its file away between our open and our lock.
            if (locked && ::fstat(fd_, &own) == 0 && ::stat(file.c_str(), &there) == 0 && own.st_ino == there.st_ino)
                return;
            ::close(fd_);
            fd_ = -1;
            if (!locked) wait(0.1, job);
        }
    }
    ~FetchLock() {
        if (fd_ < 0) return;
        ::unlink(file_.c_str());
        ::close(fd_);
    }
    FetchLock(const FetchLock&) = delete;
    FetchLock& operator=(const FetchLock&) = delete;
    [[nodiscard]] bool held() const { return fd_ >= 0; }

  private:
    fs::path file_;
    int fd_ = -1;
};

/// The original of this content that was fetched before, on whatever day: a second copy would be a left-over.
std::optional<fs::path> fetched_before(const LoggedFile& file, const fs::path& originals, const JobContext& job) {
    std::error_code code;
    const std::string stem = fs::path(safe_name(file)).stem().string();
    for (fs::recursive_directory_iterator at(originals, code), end; !code && at != end; at.increment(code)) {
        if (at->path().filename() == ".unfinished") at.disable_recursion_pending();
        std::error_code unknown;
        if (!at->is_regular_file(unknown) || at->file_size(unknown) != file.size) continue;
        if (at->path().filename().string().rfind(stem, 0) != 0) continue;
        if (const auto digest = sha256_of_file(at->path(), {job.stop, {}}); digest && *digest == file.sha256)
            return at->path();
    }
    return std::nullopt;
}

Result<fs::path> place_for(const LoggedFile& file, const fs::path& folder) {
    const fs::path name = safe_name(file);
    for (int i = 1; i < 10000; ++i) {
        fs::path place =
            folder /
            (i == 1 ? name : fs::path(name.stem().string() + "-" + std::to_string(i) + name.extension().string()));
        std::error_code code;
        if (!fs::exists(place, code)) return place;
        // The same content under the same name: that is it.
        if (fs::file_size(place, code) == file.size) {
            if (const auto digest = sha256_of_file(place); digest && *digest == file.sha256) return place;
        }
    }
    return fail(ErrorCode::exists, "There are too many files of this name.", (folder / name).string());
}

}  // namespace

std::string day_text(double unix_s) {
    const auto seconds = static_cast<std::time_t>(unix_s);
    std::tm parts{};
    localtime_r(&seconds, &parts);
    char buffer[32];
    std::strftime(buffer, sizeof buffer, "%Y-%m-%d", &parts);
    return buffer;
}

Result<void> keep_safe(const fs::path& original) {
    if (const int error_number = flush_to_disk(original); error_number != 0)
        return pass_on(io_error("write the original", original, error_number));
    (void)flush_to_disk(original.parent_path());  // some file systems cannot flush a folder
    return {};
}

Result<Fetched> fetch(LoggerLink& link, const LoggedFile& file, const fs::path& originals, const FetchOptions& options,
                      const JobContext& job) {
    if (file.size == 0)
        return fail(ErrorCode::bad_input, "The logger lists this recording as empty; there is nothing to fetch.",
                    file.name);
    const fs::path folder = originals / options.day, waiting = originals / ".unfinished";
    std::error_code code;
    for (const auto& part : {folder, waiting}) {
        fs::create_directories(part, code);
        if (code) return pass_on(io_error("make the folder of the originals", part, code.value()));
    }
    const FetchLock lock(waiting / (file.sha256 + ".lock"), job);
    if (!lock.held()) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled while another Rendak fetches it.", file.name);
        return pass_on(io_error("write the original", waiting, errno));
    }
    if (const auto before = fetched_before(file, originals, job)) {
        job.report(1);
        return Fetched{*before, file.size, 0};
    }
    const auto place = place_for(file, folder);
    if (!place) return pass_on(place.error());
    Fetched out;
    out.file = *place;
    if (fs::exists(*place, code)) {
        out.resumed_at = file.size;
        job.report(1);
        return out;
    }
    const fs::path part = waiting / file.sha256;
    const bool quick = !file.xxh3.empty();
    for (int damaged = 0; damaged < 2; ++damaged) {
        int tries = 0;
        std::uint64_t have = fs::exists(part, code) ? fs::file_size(part, code) : 0;
        if (have > file.size) {
            fs::remove(part, code);
            have = 0;
        }
        if (damaged == 0) out.resumed_at = have;
        GrowingDigest along(part, have, quick ? DigestKind::xxh3 : DigestKind::sha256);
        while (have < file.size) {
            Writer writer(part);
            if (!writer.open()) return pass_on(io_error("write the original", part, errno));
            const std::uint64_t before = have;
            bool written = true;
            const auto read = link.read(
                file, have,
                [&](std::string_view bytes) {
                    written = writer.write(bytes);
                    have += bytes.size();
                    if (written) along.grown_to(have);
                    if (options.arrived) options.arrived(bytes.size());
                    job.report(static_cast<double>(have) / static_cast<double>(file.size) * 0.98);
                    return written && !job.stopped();
                },
                job);
            // What could not be written has not arrived.
            if (!written) return pass_on(io_error("write the original", part, writer.error()));
            if (job.stopped())
                return fail(ErrorCode::cancelled, "Cancelled; what has arrived is kept and used the next time.",
                            file.name);
            if (read) break;
            if (read.error().code != ErrorCode::io) return pass_on(read.error());
            ++out.lost_links;
            tries = have > before ? 1 : tries + 1;
            if (tries >= options.tries) {
                Error error = read.error();
                error.message += " Of " + file.name + " " + std::to_string(have) + " of " + std::to_string(file.size) +
                                 " bytes have arrived; fetching it again goes on from there.";
                return pass_on(std::move(error));
            }
            wait(options.wait_s * (1 << std::min(tries - 1, 4)), job);
            if (job.stopped())
                return fail(ErrorCode::cancelled, "Cancelled; what has arrived is kept and used the next time.",
                            file.name);
        }
        const auto digest = along.finish(job.part(0.98, 1));
        if (!digest) return pass_on(digest.error());
        if (*digest == (quick ? file.xxh3 : file.sha256)) {
            if (::rename(part.c_str(), place->c_str()) != 0)
                return pass_on(io_error("write the original", *place, errno));
            return out;
        }
        fs::remove(part, code);
    }
    return fail(
        ErrorCode::bad_input,
        "The recording arrived damaged twice: its digest is not the one the logger names. It was not imported and "
        "nothing may be erased. Check the card and the link, and fetch it again.",
        file.name);
}

}  // namespace rendak
