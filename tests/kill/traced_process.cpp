#include "tests/kill/traced_process.h"

#include <fcntl.h>
#include <signal.h>
#include <sys/ptrace.h>
#include <sys/syscall.h>
#include <sys/user.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <climits>
#include <cstdlib>
#include <map>

namespace rendak::test {
namespace {

pid_t start(const std::vector<std::string>& words, bool traced) {
    std::vector<std::string> copy = words;
    std::vector<char*> pointers;
    for (std::string& word : copy) pointers.push_back(word.data());
    pointers.push_back(nullptr);
    const pid_t child = ::fork();
    if (child != 0) return child;
    const int null = ::open("/dev/null", O_RDWR);
    const char* log = std::getenv("KILL_LOG");
    const int out = log == nullptr ? null : ::open(log, O_WRONLY | O_CREAT | O_APPEND, 0600);
    ::dup2(null, 0);
    ::dup2(out, 1);
    ::dup2(out, 2);
    // The leak check cannot run under ptrace.
    ::setenv("ASAN_OPTIONS", "detect_leaks=0", 1);
    ::setenv("QT_QPA_PLATFORM", "offscreen", 1);
    if (traced && ::ptrace(PTRACE_TRACEME, 0, nullptr, nullptr) != 0) ::_exit(126);
    ::execv(pointers[0], pointers.data());
    ::_exit(127);
}

Ended wait_for(pid_t child) {
    int status = 0;
    while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
    }
    return {WIFSIGNALED(status), WIFEXITED(status) ? WEXITSTATUS(status) : -1, 0};
}

/// Whether a descriptor of a process is a file with a name (not a pipe, an event, memory or a device).
bool is_a_file(pid_t process, unsigned long long fd) {
    char target[PATH_MAX] = {};
    const std::string link = "/proc/" + std::to_string(process) + "/fd/" + std::to_string(fd);
    if (::readlink(link.c_str(), target, sizeof target - 1) <= 0) return false;
    const std::string name(target);
    const bool device = name.rfind("/dev/", 0) == 0 && name.rfind("/dev/shm/", 0) != 0;
    return name.front() == '/' && !device && name.rfind("/proc/", 0) != 0 && name.rfind("/memfd:", 0) != 0;
}

bool changes_a_file(pid_t thread, const user_regs_struct& call) {
    switch (call.orig_rax) {
        case SYS_write:
        case SYS_pwrite64:
        case SYS_writev:
        case SYS_pwritev:
        case SYS_ftruncate:
        case SYS_fallocate:
        case SYS_fsync:
        case SYS_fdatasync:
        case SYS_fchmod:
        case SYS_copy_file_range:
            return is_a_file(thread, call.rdi);
        case SYS_rename:
        case SYS_renameat:
        case SYS_renameat2:
        case SYS_unlink:
        case SYS_unlinkat:
        case SYS_mkdir:
        case SYS_mkdirat:
        case SYS_link:
        case SYS_linkat:
        case SYS_chmod:
        case SYS_truncate:
            return true;
        case SYS_open:
            return (call.rsi & O_CREAT) != 0;
        case SYS_openat:
            return (call.rdx & O_CREAT) != 0;
        default:
            return false;
    }
}

}  // namespace

Ended run_program(const std::vector<std::string>& words) {
    return wait_for(start(words, false));
}

Ended run_for(const std::vector<std::string>& words, unsigned microseconds) {
    const pid_t child = start(words, false);
    ::usleep(microseconds);
    ::kill(child, SIGKILL);
    return wait_for(child);
}

Ended run_until_change(const std::vector<std::string>& words, int at) {
    const pid_t child = start(words, true);
    int status = 0;
    ::waitpid(child, &status, 0);
    Ended out;
    if (!WIFSTOPPED(status)) return {false, -1, 0};  // tracing was refused
    ::ptrace(PTRACE_SETOPTIONS, child, nullptr, PTRACE_O_TRACESYSGOOD | PTRACE_O_TRACECLONE | PTRACE_O_EXITKILL);
    ::ptrace(PTRACE_SYSCALL, child, nullptr, nullptr);
    std::map<pid_t, bool> inside;  // a thread's call has begun and not ended
    for (;;) {
        const pid_t thread = ::waitpid(-1, &status, __WALL);
        if (thread < 0) {
            if (errno == EINTR) continue;
            return out;
        }
        if (WIFEXITED(status) || WIFSIGNALED(status)) {
            inside.erase(thread);
            if (thread != child) continue;
            out.killed = WIFSIGNALED(status);
            out.code = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
            return out;
        }
        int signal = WSTOPSIG(status);
        if (signal == (SIGTRAP | 0x80)) {
            signal = 0;
            bool& begun = inside[thread];
            begun = !begun;
            user_regs_struct call{};
            if (begun && ::ptrace(PTRACE_GETREGS, thread, nullptr, &call) == 0 && changes_a_file(thread, call) &&
                ++out.changes == at)
                ::kill(child, SIGKILL);
        } else if (signal == SIGTRAP || signal == SIGSTOP) {
            signal = 0;  // a new thread, or the exec
        }
        ::ptrace(PTRACE_SYSCALL, thread, nullptr, signal);
    }
}

}  // namespace rendak::test
