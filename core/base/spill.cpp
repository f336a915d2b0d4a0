#include "core/base/spill.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <sys/statvfs.h>
#include <unistd.h>

#include <atomic>
#include <cstdlib>
#include <map>
#include <mutex>
#include <new>
#include <utility>

#include "core/base/buffer.h"
#include "core/base/file_io.h"
#include "core/base/mapping_guard.h"

namespace rendak {
namespace {

/// What is smaller is not worth a file.
constexpr std::size_t least_spilled = std::size_t{256} << 10;

thread_local SpillToDisk* active = nullptr;

struct Spilled {
    std::size_t bytes = 0;
    int guard = -1;
};
struct Register {
    std::mutex mutex;
    std::map<void*, Spilled> blocks;
    std::atomic<std::size_t> count{0};
};
Register& all_spilled() {
    static Register it;
    return it;
}

Descriptor nameless_in(const std::filesystem::path& folder) {
    return Descriptor(::open(folder.c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, 0600));
}

/// Null where it cannot be had.
void* in_a_file(const std::filesystem::path& folder, std::size_t bytes) {
    struct statvfs disk {};
    if (::statvfs(folder.c_str(), &disk) != 0) return nullptr;
    const double free = static_cast<double>(disk.f_bavail) * static_cast<double>(disk.f_frsize);
    if (free < 3 * static_cast<double>(bytes)) return nullptr;
    const Descriptor file = nameless_in(folder);
    // All of its room is taken at once: a disk that is full later harms nothing.
    if (!file.ok() || ::fallocate(file.fd(), 0, 0, static_cast<off_t>(bytes)) != 0) return nullptr;
    void* const place = ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_SHARED, file.fd(), 0);
    if (place == MAP_FAILED) return nullptr;
    Spilled block{bytes, guard_mapping(place, bytes)};
    if (block.guard < 0) {
        ::munmap(place, bytes);
        return nullptr;
    }
    Register& all = all_spilled();
    const std::scoped_lock lock(all.mutex);
    all.blocks[place] = block;
    ++all.count;
    return place;
}

bool give_file_back(void* place) {
    Register& all = all_spilled();
    if (all.count == 0) return false;
    const std::scoped_lock lock(all.mutex);
    const auto found = all.blocks.find(place);
    if (found == all.blocks.end()) return false;
    release_mapping(found->second.guard);
    ::munmap(place, found->second.bytes);
    all.blocks.erase(found);
    --all.count;
    return true;
}

}  // namespace

SpillToDisk::SpillToDisk(std::filesystem::path folder, std::size_t in_memory)
    : folder_(std::move(folder)), left_(in_memory), shrunk_before_(shrunk_mappings()), outermost_(active == nullptr) {
    if (outermost_) active = this;
}

SpillToDisk::~SpillToDisk() {
    if (outermost_) active = nullptr;
}

bool SpillToDisk::lost() const {
    return shrunk_mappings() != shrunk_before_;
}

void* take_block(std::size_t bytes) {
    if (active != nullptr && bytes >= least_spilled) {
        if (bytes > active->left_) {
            if (void* const place = in_a_file(active->folder_, bytes); place != nullptr) return place;
        } else {
            active->left_ -= bytes;
        }
    }
    return bytes >= huge_from_bytes ? huge_block(bytes) : ::operator new(bytes);
}

void give_block(void* place, std::size_t bytes) noexcept {
    if (bytes >= least_spilled && give_file_back(place)) return;
    if (bytes >= huge_from_bytes)
        std::free(place);
    else
        ::operator delete(place);
}

Descriptor spill_file() {
    return active == nullptr ? Descriptor(-1) : nameless_in(active->folder_);
}

std::size_t spilled_blocks() {
    return all_spilled().count;
}

}  // namespace rendak
