#include "core/base/mapping_guard.h"

#include <signal.h>
#include <sys/mman.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <cstdint>
#include <cstring>
#include <mutex>

namespace rendak {
namespace {

struct Guarded {
    std::atomic<std::uintptr_t> begin{0}, end{0};
    std::atomic<bool> taken{false}, shrank{false};
};

// Recordings, originals and tables open at once; a mapping beyond them is refused by its opener.
std::array<Guarded, 8192> table;
std::atomic<std::size_t> ever_taken{0};  ///< places of the table behind it never were
struct sigaction before {};
std::atomic<unsigned long> shrunk_count{0};

void on_bus_error(int signal, siginfo_t* info, void* context) {
    const auto at = reinterpret_cast<std::uintptr_t>(info->si_addr);
    for (std::size_t i = 0; i < ever_taken; ++i) {
        Guarded& it = table[i];
        if (at < it.begin.load(std::memory_order_acquire) || at >= it.end.load(std::memory_order_acquire)) continue;
        const auto page_size = static_cast<std::uintptr_t>(::sysconf(_SC_PAGESIZE));
        void* page = reinterpret_cast<void*>(at & ~(page_size - 1));
        if (::mmap(page, page_size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS | MAP_FIXED, -1, 0) ==
            MAP_FAILED)
            break;
        std::memset(page, 0xff, page_size);
        ::mprotect(page, page_size, PROT_READ);
        if (!it.shrank.exchange(true)) ++shrunk_count;
        return;
    }
    // Not ours: what was there before decides.
    if ((before.sa_flags & SA_SIGINFO) != 0 && before.sa_sigaction != nullptr)
        return before.sa_sigaction(signal, info, context);
    ::sigaction(SIGBUS, &before, nullptr);
}

void install_once() {
    static std::once_flag once;
    std::call_once(once, [] {
        struct sigaction action {};
        action.sa_sigaction = on_bus_error;
        action.sa_flags = SA_SIGINFO | SA_RESTART;
        sigemptyset(&action.sa_mask);
        ::sigaction(SIGBUS, &action, &before);
    });
}

}  // namespace

int guard_mapping(const void* begin, std::size_t size) {
    install_once();
    for (std::size_t i = 0; i < table.size(); ++i) {
        bool free = false;
        if (!table[i].taken.compare_exchange_strong(free, true)) continue;
        const auto at = reinterpret_cast<std::uintptr_t>(begin);
        for (std::size_t taken = ever_taken; taken <= i && !ever_taken.compare_exchange_weak(taken, i + 1);) continue;
        table[i].shrank = false;
        table[i].end.store(at + size, std::memory_order_release);
        table[i].begin.store(at, std::memory_order_release);
        return static_cast<int>(i);
    }
    return -1;
}

void release_mapping(int guard) {
    if (guard < 0) return;
    Guarded& it = table[static_cast<std::size_t>(guard)];
    it.end = 0;
    it.begin = 0;
    it.taken = false;
}

void let_go(const void* data, std::size_t bytes) {
    const auto page = static_cast<std::uintptr_t>(::sysconf(_SC_PAGESIZE));
    const auto from = reinterpret_cast<std::uintptr_t>(data), to = from + bytes;
    if (bytes < 16 * page) return;
    for (std::size_t i = 0; i < ever_taken; ++i) {
        Guarded& it = table[i];
        if (from < it.begin.load(std::memory_order_acquire) || to > it.end.load(std::memory_order_acquire)) continue;
        // Pages of 255 stand for what a shrunk file has lost: they would come back as zeros.
        if (it.shrank) return;
        const std::uintptr_t first = (from + page - 1) & ~(page - 1), last = to & ~(page - 1);
        if (last > first) ::madvise(reinterpret_cast<void*>(first), last - first, MADV_DONTNEED);
        return;
    }
}

unsigned long shrunk_mappings() {
    return shrunk_count;
}

bool mapping_shrank(int guard) {
    return guard >= 0 && table[static_cast<std::size_t>(guard)].shrank;
}

}  // namespace rendak
