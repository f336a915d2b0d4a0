#pragma once

#include <cstddef>
#include <cstdlib>
#include <memory>
#include <vector>

namespace rendak {

/// Memory of at least this many bytes comes in huge pages where the machine has them: touching it for the first time
/// takes a third of the time then.
inline constexpr std::size_t huge_from_bytes = 4U << 20;
/// Given back with std::free. Throws std::bad_alloc.
[[nodiscard]] void* huge_block(std::size_t bytes);

/// An allocator that leaves new numbers unset: fresh memory is the slowest memory, so a big buffer is
/// touched once, by whoever fills it.
template <class T>
struct UnsetAllocator : std::allocator<T> {
    template <class U>
    struct rebind {
        using other = UnsetAllocator<U>;
    };
    [[nodiscard]] T* allocate(std::size_t count) {
        if (count >= huge_from_bytes / sizeof(T) && count <= std::size_t(-1) / sizeof(T))
            return static_cast<T*>(huge_block(count * sizeof(T)));
        return std::allocator<T>::allocate(count);
    }
    void deallocate(T* place, std::size_t count) {
        if (count >= huge_from_bytes / sizeof(T))
            std::free(place);
        else
            std::allocator<T>::deallocate(place, count);
    }
    template <class U>
    void construct(U* place) {
        ::new (static_cast<void*>(place)) U;
    }
    template <class U, class... Arguments>
    void construct(U* place, Arguments&&... arguments) {
        ::new (static_cast<void*>(place)) U(std::forward<Arguments>(arguments)...);
    }
};

/// A vector whose resize() does not clear: fill it before you read it.
template <class T>
using Buffer = std::vector<T, UnsetAllocator<T>>;

}  // namespace rendak
