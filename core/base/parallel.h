#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <thread>
#include <vector>

namespace rendak {

/// Calls work(i) for i = 0 … count − 1 on all cores, in any order; each i is one thread's. A thread is started only for
/// at least `worth_a_thread` calls.
template <class Work>
void parallel_for(std::size_t count, std::size_t worth_a_thread, const Work& work) {
    std::atomic<std::size_t> next{0};
    const auto some = [&] {
        for (std::size_t i = next++; i < count; i = next++) work(i);
    };
    const std::size_t threads =
        std::min<std::size_t>(std::max(1U, std::thread::hardware_concurrency()), 1 + count / worth_a_thread);
    std::vector<std::jthread> helpers;
    for (std::size_t k = 1; k < threads; ++k) helpers.emplace_back(some);
    some();
}

}  // namespace rendak
