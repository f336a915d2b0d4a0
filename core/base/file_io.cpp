#include "core/base/file_io.h"

#include <fcntl.h>
#include <signal.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <functional>
#include <string>

#include "core/base/mapping_guard.h"

namespace rendak {
namespace {

constexpr std::string_view temporary_prefix = ".rendak-part-";
/// Half of the longest name that file systems take: the rest is for the prefix.
constexpr std::size_t longest_kept_name = 200;

Error not_regular(const std::filesystem::path& file) {
    return {ErrorCode::bad_input, "This is a pipe or a device, not a file. Choose a regular file.", file.string()};
}

/// Real files are at most a little sparse; one of which the disk holds next to nothing is a broken copy or a trap.
bool is_hollow(const struct stat& info) {
    constexpr off_t large = 256 << 20, thinnest = 64;
    return info.st_size > large && static_cast<off_t>(info.st_blocks) * 512 < info.st_size / thinnest;
}

FileState state_from(const struct stat& info) {
    return {static_cast<std::int64_t>(info.st_dev),
            static_cast<std::int64_t>(info.st_ino),
            info.st_size,
            info.st_mtim.tv_sec,
            info.st_mtim.tv_nsec,
            info.st_ctim.tv_sec,
            info.st_ctim.tv_nsec};
}

int write_all(int fd, std::string_view text) {
    while (!text.empty()) {
        const auto written = ::write(fd, text.data(), text.size());
        if (written < 0) {
            if (errno == EINTR) continue;
            return errno;
        }
        text.remove_prefix(static_cast<std::size_t>(written));
    }
    return 0;
}

/// What process numbers are counted in, as eight digits: this start of this machine, or a container on it. A part whose
/// process is gone can only be told to be left over inside it.
std::string process_space() {
    std::string text;
    std::ifstream("/proc/sys/kernel/random/boot_id") >> text;
    std::error_code code;
    text += std::filesystem::read_symlink("/proc/self/ns/pid", code).string();
    char digits[9];
    std::snprintf(digits, sizeof digits, "%08x", static_cast<unsigned>(std::hash<std::string>()(text)));
    return digits;
}

/// Parts of the same file that a killed process left beside it.
void remove_left_overs(const std::filesystem::path& target) {
    std::error_code code;
    const auto folder = target.parent_path().empty() ? std::filesystem::path(".") : target.parent_path();
    const std::string ours = std::string(temporary_prefix) + process_space() + "-";
    const std::string stands_for = target.filename().string().substr(0, longest_kept_name);
    for (std::filesystem::directory_iterator at(folder, code), end; !code && at != end; at.increment(code)) {
        const std::string name = at->path().filename().string();
        if (name.rfind(ours, 0) != 0 || name_behind(at->path()).rfind(stands_for, 0) != 0) continue;
        const auto process = static_cast<pid_t>(std::atoll(name.c_str() + ours.size()));
        if (process > 0 && ::kill(process, 0) != 0 && errno == ESRCH) ::unlink(at->path().c_str());
    }
}

}  // namespace

Descriptor::~Descriptor() {
    if (fd_ >= 0) ::close(fd_);
}

Error io_error(std::string_view what, const std::filesystem::path& file, int error_number) {
    std::string message = "Cannot " + std::string(what) + ": ";
    switch (error_number) {
        case ENOENT:
            message += "there is no such file or folder. Check the path.";
            break;
        case EACCES:
        case EPERM:
            message += "permission is missing. Choose another place or change the rights of the folder.";
            break;
        case EROFS:
            message += "the folder is read-only. Choose another place.";
            break;
        case ENOSPC:
        case EDQUOT:
            message += "the disk is full. Free some space and try again.";
            break;
        case EISDIR:
            message += "this is a folder, not a file.";
            break;
        case EMFILE:
        case ENFILE:
            message += "too many files are open. Close some programs and try again.";
            break;
        default:
            message += std::string(std::strerror(error_number)) + ".";
    }
    const ErrorCode code = error_number == ENOENT ? ErrorCode::not_found : ErrorCode::io;
    return {code, std::move(message), file.string()};
}

Error file_changed(const std::filesystem::path& file) {
    return {ErrorCode::io, "The file became shorter while it was read. Try again when nothing writes to it any more.",
            file.string()};
}

Result<Descriptor> open_regular(const std::filesystem::path& file) {
    // Looked at before it is opened: opening a device can do something, opening a pipe can wait for ever.
    struct stat info {};
    if (::stat(file.c_str(), &info) != 0) return pass_on(io_error("open the file", file, errno));
    if (S_ISDIR(info.st_mode)) return pass_on(io_error("read the file", file, EISDIR));
    if (!S_ISREG(info.st_mode)) return pass_on(not_regular(file));
    Descriptor out(::open(file.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY));
    if (!out.ok()) return pass_on(io_error("open the file", file, errno));
    if (::fstat(out.fd(), &info) != 0) return pass_on(io_error("read the file", file, errno));
    if (!S_ISREG(info.st_mode)) return pass_on(not_regular(file));
    if (is_hollow(info))
        return fail(ErrorCode::bad_input,
                    "This file claims " + std::to_string(info.st_size / 1'000'000) + " MB, but the disk holds only " +
                        std::to_string(static_cast<off_t>(info.st_blocks) * 512 / 1'000'000) +
                        " MB of it: a copy that broke off? Copy it again from where it came from.",
                    file.string());
    return out;
}

Result<std::shared_ptr<const MappedFile>> MappedFile::open(const std::filesystem::path& file) {
    const auto descriptor = open_regular(file);
    if (!descriptor) return pass_on(descriptor.error());
    return of(*descriptor, file);
}

Result<std::shared_ptr<const MappedFile>> MappedFile::of(const Descriptor& file,
                                                         const std::filesystem::path& shown_name) {
    struct stat info {};
    if (::fstat(file.fd(), &info) != 0) return pass_on(io_error("read the file", shown_name, errno));
    const auto size = static_cast<std::size_t>(info.st_size);
    if (size == 0) return std::shared_ptr<const MappedFile>(new MappedFile("", 0, -1));
    void* data = ::mmap(nullptr, size, PROT_READ, MAP_PRIVATE, file.fd(), 0);
    if (data == MAP_FAILED) return pass_on(io_error("map the file", shown_name, errno));
    const int guard = guard_mapping(data, size);
    if (guard < 0) {
        ::munmap(data, size);
        return pass_on(io_error("map the file", shown_name, EMFILE));
    }
    return std::shared_ptr<const MappedFile>(new MappedFile(static_cast<const char*>(data), size, guard));
}

MappedFile::~MappedFile() {
    release_mapping(guard_);
    if (size_ > 0) ::munmap(const_cast<char*>(data_), size_);
}

bool MappedFile::shrank() const {
    return mapping_shrank(guard_);
}

std::optional<FileState> state_of(const std::filesystem::path& file) {
    struct stat info {};
    return ::stat(file.c_str(), &info) == 0 ? std::optional(state_from(info)) : std::nullopt;
}

std::optional<FileState> state_of(const Descriptor& file) {
    struct stat info {};
    return ::fstat(file.fd(), &info) == 0 ? std::optional(state_from(info)) : std::nullopt;
}

Result<std::string> read_head(const std::filesystem::path& file, std::size_t most) {
    const auto descriptor = open_regular(file);
    if (!descriptor) return pass_on(descriptor.error());
    std::string out(most, '\0');
    std::size_t size = 0;
    while (size < most) {
        const auto got = ::read(descriptor->fd(), out.data() + size, most - size);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return pass_on(io_error("read the file", file, errno));
        if (got == 0) break;
        size += static_cast<std::size_t>(got);
    }
    out.resize(size);
    return out;
}

Result<std::string> read_text_file(const std::filesystem::path& file, std::size_t most) {
    auto out = read_head(file, most + 1);
    if (out && out->size() > most)
        return fail(ErrorCode::bad_input,
                    "The file is larger than the " + std::to_string(most >> 20) + " MB that one of its kind may have.",
                    file.string());
    return out;
}

int flush_to_disk(const std::filesystem::path& file_or_folder) {
    const Descriptor descriptor(::open(file_or_folder.empty() ? "." : file_or_folder.c_str(), O_RDONLY | O_CLOEXEC));
    return descriptor.ok() && ::fsync(descriptor.fd()) == 0 ? 0 : errno;
}

Result<OutputFile> OutputFile::begin(const std::filesystem::path& file) {
    std::error_code code;
    std::filesystem::path target = file;
    if (std::filesystem::is_symlink(std::filesystem::symlink_status(file, code))) {
        target = std::filesystem::canonical(file, code);
        if (code)
            return fail(ErrorCode::bad_input, "This is a link that leads nowhere. Choose another name.", file.string());
    }
    remove_left_overs(target);
    struct stat info {};
    if (::stat(target.c_str(), &info) != 0) {
        if (errno != ENOENT) return pass_on(io_error("write the file", file, errno));
        return OutputFile(temporary_name(target), target, -1);
    }
    if (S_ISDIR(info.st_mode)) return pass_on(io_error("write the file", file, EISDIR));
    if (!S_ISREG(info.st_mode)) return pass_on(not_regular(file));
    return OutputFile(temporary_name(target), target, static_cast<int>(info.st_mode & 07777));
}

OutputFile::~OutputFile() {
    if (!part_.empty()) ::unlink(part_.c_str());
}

Result<void> OutputFile::finish() {
    if (mode_ >= 0 && ::chmod(part_.c_str(), static_cast<mode_t>(mode_)) != 0)
        return pass_on(io_error("write the file", final_, errno));
    auto moved = move_into_place(part_, final_);
    if (moved) part_.clear();
    return moved;
}

Result<void> move_into_place(const std::filesystem::path& from, const std::filesystem::path& to) {
    int error_number = flush_to_disk(from);
    if (error_number == 0 && ::rename(from.c_str(), to.c_str()) != 0) error_number = errno;
    if (error_number != 0) return pass_on(io_error("write the file", to, error_number));
    (void)flush_to_disk(to.parent_path());  // some file systems cannot flush a folder
    return {};
}

Result<void> write_file(const std::filesystem::path& file, std::string_view text) {
    auto out = OutputFile::begin(file);
    if (!out) return pass_on(out.error());
    {
        const Descriptor part(::open(out->part().c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644));
        if (!part.ok()) return pass_on(io_error("write the file", file, errno));
        if (const int error_number = write_all(part.fd(), text); error_number != 0)
            return pass_on(io_error("write the file", file, error_number));
    }
    return out->finish();
}

std::filesystem::path temporary_name(const std::filesystem::path& file) {
    static std::atomic<unsigned> counter{0};
    const auto name = std::string(temporary_prefix) + process_space() + "-" + std::to_string(::getpid()) + "-" +
                      std::to_string(counter++);
    return file.parent_path() / (name + "-" + file.filename().string().substr(0, longest_kept_name));
}

std::string name_behind(const std::filesystem::path& temporary) {
    const std::string name = temporary.filename().string();
    if (name.rfind(temporary_prefix, 0) != 0) return {};
    std::size_t at = temporary_prefix.size();
    if (name.find_first_not_of("0123456789abcdef", at) != at + 8 || name[at + 8] != '-') return {};
    at += 9;
    for (int part = 0; part < 2; ++part) {  // process, counter
        const std::size_t end = name.find_first_not_of("0123456789", at);
        if (end == std::string::npos || end == at || name[end] != '-') return {};
        at = end + 1;
    }
    return name.substr(at);
}

bool is_temporary_name(const std::filesystem::path& file) {
    return !name_behind(file).empty();
}

std::size_t memory_for_one_file() {
    // MemAvailable counts what the system would give back from its caches.
    std::ifstream info("/proc/meminfo");
    std::string word;
    while (info >> word) {
        std::size_t kilobytes = 0;
        if (word == "MemAvailable:" && info >> kilobytes) return kilobytes * 512;
    }
    return std::size_t{1} << 30;
}

}  // namespace rendak
