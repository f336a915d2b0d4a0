#pragma once

#include <fcntl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <cstdio>
#include <string>
#include <vector>

namespace rendak::bench {

/// What a whole process cost, as a person starts it.
struct Cost {
    double wall_s = 0, user_s = 0, memory_mb = 0;
    bool fine = false;
};

inline Cost cost_of(const std::vector<std::string>& command) {
    const auto began = std::chrono::steady_clock::now();
    const pid_t child = ::fork();
    if (child == 0) {
        std::vector<char*> arguments;
        for (const std::string& word : command) arguments.push_back(const_cast<char*>(word.c_str()));
        arguments.push_back(nullptr);
        const int nowhere = ::open("/dev/null", O_WRONLY);
        ::dup2(nowhere, 1);
        ::dup2(nowhere, 2);
        ::execv(arguments[0], arguments.data());
        ::_exit(127);
    }
    int status = 0;
    rusage used{};
    ::wait4(child, &status, 0, &used);
    Cost out;
    out.wall_s = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    out.user_s = static_cast<double>(used.ru_utime.tv_sec) + 1e-6 * static_cast<double>(used.ru_utime.tv_usec);
    out.memory_mb = static_cast<double>(used.ru_maxrss) / 1024;
    out.fine = WIFEXITED(status) && WEXITSTATUS(status) == 0;
    return out;
}

inline void say(const char* what, const Cost& cost) {
    std::printf("  %-44s %8.3f s  %8.3f s user  %8.1f MB%s\n", what, cost.wall_s, cost.user_s, cost.memory_mb,
                cost.fine ? "" : "  FAILED");
    std::fflush(stdout);
}

}  // namespace rendak::bench
