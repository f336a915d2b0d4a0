#include <sys/mman.h>
#include <unistd.h>

#include <cstdlib>

#include "tests/fuzz/fuzz.h"

namespace rendak::fuzz {

std::filesystem::path as_file(const std::uint8_t* data, std::size_t size) {
    static const int fd = ::memfd_create("fuzz", MFD_CLOEXEC);
    if (::ftruncate(fd, 0) != 0 || ::pwrite(fd, data, size, 0) != static_cast<ssize_t>(size)) std::abort();
    return "/proc/self/fd/" + std::to_string(fd);
}

}  // namespace rendak::fuzz
