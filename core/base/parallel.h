#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <thread>
#include <vector>

#include "core/base/wide_registers.h"

namespace rendak {

/// How many threads for work that reads files: while one waits for the disk, every core has another.
[[nodiscard]] inline unsigned threads_that_read() {
    return std::max(1U, std::thread::hardware_concurrency()) + 1;
}

/// Calls work(i) for i = 0 … count − 1 on several threads, this one included, in any order; each i is one thread's. A
/// thread is started only for at least `worth_a_thread` calls; `most` threads, or all cores when it is 0.
template <class Work>
void parallel_for(std::size_t count, std::size_t worth_a_thread, const Work& work, unsigned most = 0) {
    clear_wide_registers();
    std::atomic<std::size_t> next{0};
    const auto some = [&] {
        for (std::size_t i = next++; i < count; i = next++) work(i);
    };
    if (most == 0) most = std::max(1U, std::thread::hardware_concurrency());
    const std::size_t threads = std::min({std::size_t{most}, count, 1 + count / worth_a_thread});
    std::vector<std::jthread> helpers;
    for (std::size_t k = 1; k < threads; ++k) helpers.emplace_back(some);
    some();
}

}  // namespace rendak
