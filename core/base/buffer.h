#pragma once

#include <memory>
#include <vector>

namespace rendak {

/// An allocator that leaves new numbers unset: fresh memory is the slowest memory, so a big buffer is
/// touched once, by whoever fills it.
template <class T>
struct UnsetAllocator : std::allocator<T> {
    template <class U>
    struct rebind {
        using other = UnsetAllocator<U>;
    };
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
