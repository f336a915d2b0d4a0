#include "core/base/file_io.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <string>

namespace rendak {
namespace {

struct Descriptor {
    int fd;
    ~Descriptor() {
        if (fd >= 0) ::close(fd);
    }
};

}  // namespace

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
            message += "the disk is full. Free some space and try again; nothing was changed.";
            break;
        case EISDIR:
            message += "this is a folder, not a file.";
            break;
        default:
            message += std::string(std::strerror(error_number)) + ".";
    }
    const ErrorCode code = error_number == ENOENT ? ErrorCode::not_found : ErrorCode::io;
    return {code, std::move(message), file.string()};
}

Result<std::shared_ptr<const MappedFile>> MappedFile::open(const std::filesystem::path& file) {
    const Descriptor descriptor{::open(file.c_str(), O_RDONLY | O_CLOEXEC)};
    if (descriptor.fd < 0) return pass_on(io_error("open the file", file, errno));
    struct stat info {};
    if (::fstat(descriptor.fd, &info) != 0) return pass_on(io_error("read the file", file, errno));
    if (S_ISDIR(info.st_mode)) return pass_on(io_error("read the file", file, EISDIR));
    const auto size = static_cast<std::size_t>(info.st_size);
    if (size == 0) return std::shared_ptr<const MappedFile>(new MappedFile("", 0));
    void* data = ::mmap(nullptr, size, PROT_READ, MAP_PRIVATE, descriptor.fd, 0);
    if (data == MAP_FAILED) return pass_on(io_error("map the file", file, errno));
    return std::shared_ptr<const MappedFile>(new MappedFile(static_cast<const char*>(data), size));
}

MappedFile::~MappedFile() {
    if (size_ > 0) ::munmap(const_cast<char*>(data_), size_);
}

Result<void> finish_file(const std::filesystem::path& temporary, const std::filesystem::path& final_name) {
    int error_number = 0;
    {
        const Descriptor descriptor{::open(temporary.c_str(), O_RDONLY | O_CLOEXEC)};
        if (descriptor.fd < 0 || ::fsync(descriptor.fd) != 0) error_number = errno;
    }
    if (error_number == 0 && ::rename(temporary.c_str(), final_name.c_str()) != 0) error_number = errno;
    if (error_number != 0) {
        ::unlink(temporary.c_str());
        return pass_on(io_error("write the file", final_name, error_number));
    }
    const Descriptor folder{::open(final_name.parent_path().empty() ? "." : final_name.parent_path().c_str(),
                                   O_RDONLY | O_DIRECTORY | O_CLOEXEC)};
    if (folder.fd >= 0) ::fsync(folder.fd);
    return {};
}

Result<void> write_file(const std::filesystem::path& file, std::string_view text) {
    const auto temporary = temporary_name(file);
    int error_number = 0;
    {
        const Descriptor out{::open(temporary.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644)};
        if (out.fd < 0) return pass_on(io_error("write the file", file, errno));
        while (!text.empty()) {
            const auto written = ::write(out.fd, text.data(), text.size());
            if (written < 0) {
                if (errno == EINTR) continue;
                error_number = errno;
                break;
            }
            text.remove_prefix(static_cast<std::size_t>(written));
        }
    }
    if (error_number != 0) {
        ::unlink(temporary.c_str());
        return pass_on(io_error("write the file", file, error_number));
    }
    return finish_file(temporary, file);
}

std::filesystem::path temporary_name(const std::filesystem::path& file) {
    static std::atomic<unsigned> counter{0};
    const auto name = ".part-" + std::to_string(::getpid()) + "-" + std::to_string(counter++) + "-";
    return file.parent_path() / (name + file.filename().string());
}

}  // namespace rendak
