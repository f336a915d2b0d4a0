#pragma once

#include <cstddef>
#include <filesystem>
#include <new>
#include <vector>

#include "core/base/buffer.h"
#include "core/base/file_io.h"

namespace rendak {

/// While it lives, big pieces of SpillBuffers that its thread asks for lie in files without a name in `folder`, once
/// `in_memory` bytes of them lie in memory: a recording of a day is read on a computer that has not its size in memory.
/// let_go() takes their pages out of this process. Where the folder's disk has not three times the room, or cannot do
/// it, they stay in memory. One within another changes nothing.
class SpillToDisk {
  public:
    static constexpr std::size_t usual_in_memory = std::size_t{48} << 20;

    explicit SpillToDisk(std::filesystem::path folder, std::size_t in_memory = usual_in_memory);
    ~SpillToDisk();
    SpillToDisk(const SpillToDisk&) = delete;
    SpillToDisk& operator=(const SpillToDisk&) = delete;
    /// The disk did not give back what was put there (or some other mapped file shrank meanwhile): samples are missing.
    [[nodiscard]] bool lost() const;

  private:
    friend void* take_block(std::size_t bytes);
    friend Descriptor spill_file();
    std::filesystem::path folder_;
    std::size_t left_;  ///< bytes that may still lie in memory
    unsigned long shrunk_before_;
    bool outermost_;
};

/// Memory of a SpillBuffer. Throws std::bad_alloc.
[[nodiscard]] void* take_block(std::size_t bytes);
void give_block(void* place, std::size_t bytes) noexcept;
/// An open file without a name where such pieces lie; not ok outside of a SpillToDisk, or where its disk cannot do it.
[[nodiscard]] Descriptor spill_file();
/// How many lie in files now.
[[nodiscard]] std::size_t spilled_blocks();

template <class T>
struct SpillAllocator : UnsetAllocator<T> {
    template <class U>
    struct rebind {
        using other = SpillAllocator<U>;
    };
    [[nodiscard]] T* allocate(std::size_t count) {
        if (count > std::size_t(-1) / sizeof(T)) throw std::bad_array_new_length();
        return static_cast<T*>(take_block(count * sizeof(T)));
    }
    void deallocate(T* place, std::size_t count) noexcept { give_block(place, count * sizeof(T)); }
};

/// A Buffer for samples that are read once and handed on.
template <class T>
using SpillBuffer = std::vector<T, SpillAllocator<T>>;

}  // namespace rendak
