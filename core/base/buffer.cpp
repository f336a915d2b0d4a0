#include "core/base/buffer.h"

#include <sys/mman.h>

#include <new>

namespace rendak {

void* huge_block(std::size_t bytes) {
    constexpr std::size_t page = 2U << 20;
    if (bytes > std::size_t(-1) - page) throw std::bad_alloc();
    const std::size_t whole = (bytes + page - 1) / page * page;
    void* const place = std::aligned_alloc(page, whole);
    if (place == nullptr) throw std::bad_alloc();
    // Only a wish: without huge pages the memory is as good.
    (void)::madvise(place, whole, MADV_HUGEPAGE);
    return place;
}

}  // namespace rendak
