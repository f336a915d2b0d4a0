#include "core/video/film_link.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <chrono>

#include "core/base/file_io.h"
#include "core/base/own_program.h"

extern char** environ;

namespace rendak {

struct FilmLink::Process {
    std::span<std::uint8_t> memory;
    int memory_fd = -1, talk = -1;
    pid_t child = 0;
    std::string heard;

    Process() {
        memory_fd = ::memfd_create("rendak-film", MFD_CLOEXEC | MFD_ALLOW_SEALING);
        if (memory_fd < 0 || ::ftruncate(memory_fd, static_cast<off_t>(film_memory_bytes)) != 0) return;
        // Nobody can make it smaller under our eyes.
        ::fcntl(memory_fd, F_ADD_SEALS, F_SEAL_SHRINK | F_SEAL_GROW | F_SEAL_SEAL);
        void* mapped = ::mmap(nullptr, film_memory_bytes, PROT_READ | PROT_WRITE, MAP_SHARED, memory_fd, 0);
        if (mapped != MAP_FAILED) memory = {static_cast<std::uint8_t*>(mapped), film_memory_bytes};
    }
    Process(const Process&) = delete;
    Process& operator=(const Process&) = delete;
    ~Process() {
        end();
        if (!memory.empty()) ::munmap(memory.data(), memory.size());
        if (memory_fd >= 0) ::close(memory_fd);
    }

    void end() {
        if (talk >= 0) ::close(std::exchange(talk, -1));
        if (child > 0) {
            ::kill(child, SIGKILL);
            while (::waitpid(child, nullptr, 0) < 0 && errno == EINTR) {
            }
            child = 0;
        }
        heard.clear();
    }

    Result<void> begin() {
        const std::filesystem::path program = own_program("rendak-film");
        if (program.empty())
            return fail(ErrorCode::io, "The program rendak-film is missing beside this one. Install Rendak again.");
        int ends[2];
        if (memory.empty() || ::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0)
            return fail(ErrorCode::io, "There is no memory left for a film.");
        // Above those that the child gets, so that none of them is overwritten.
        const Descriptor its_end(::fcntl(ends[1], F_DUPFD_CLOEXEC, 16)),
            its_memory(::fcntl(memory_fd, F_DUPFD_CLOEXEC, 16));
        ::close(ends[1]);
        talk = ends[0];
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_adddup2(&actions, its_end.fd(), 0);
        posix_spawn_file_actions_adddup2(&actions, its_end.fd(), 1);
        posix_spawn_file_actions_addopen(&actions, 2, "/dev/null", O_WRONLY, 0);
        posix_spawn_file_actions_adddup2(&actions, its_memory.fd(), 3);
        std::string name = program.string();
        char* arguments[] = {name.data(), nullptr};
        const int code = ::posix_spawn(&child, name.c_str(), &actions, nullptr, arguments, environ);
        posix_spawn_file_actions_destroy(&actions);
        if (code != 0) {
            child = 0;
            end();
            return fail(ErrorCode::io, "The program that reads films cannot be started.");
        }
        return {};
    }

    /// A whole line; empty: the process is gone, took too long or is no longer wanted.
    std::string line(const JobContext& job, double most_s) {
        const auto begun = std::chrono::steady_clock::now();
        for (;;) {
            if (const auto at = heard.find('\n'); at != std::string::npos) {
                std::string out = heard.substr(0, at);
                heard.erase(0, at + 1);
                return out;
            }
            pollfd waiting{talk, POLLIN, 0};
            const int ready = ::poll(&waiting, 1, 20);
            if (ready > 0) {
                char block[1 << 16];
                const auto count = ::recv(talk, block, sizeof block, 0);
                if (count <= 0) return {};
                heard.append(block, static_cast<std::size_t>(count));
            }
            if (job.stopped() || std::chrono::steady_clock::now() - begun > std::chrono::duration<double>(most_s))
                return {};
        }
    }
};

FilmLink::FilmLink() : process_(std::make_unique<Process>()) {}
FilmLink::~FilmLink() = default;
FilmLink::FilmLink(FilmLink&&) noexcept = default;
FilmLink& FilmLink::operator=(FilmLink&&) noexcept = default;

std::span<std::uint8_t> FilmLink::memory() {
    return process_->memory;
}

bool FilmLink::alive() const {
    return process_->child > 0;
}

void FilmLink::stop() {
    process_->end();
}

Result<std::string> FilmLink::ask(const std::string& question, const JobContext& job, double most_s) {
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    if (!alive()) {
        if (const auto done = process_->begin(); !done) return pass_on(done.error());
    }
    const std::string text = question + '\n';
    std::size_t sent = 0;
    while (sent < text.size()) {
        const auto count = ::send(process_->talk, text.data() + sent, text.size() - sent, MSG_NOSIGNAL);
        if (count <= 0) break;
        sent += static_cast<std::size_t>(count);
    }
    std::string out = sent == text.size() ? process_->line(job, most_s) : std::string();
    if (!out.empty()) return out;
    stop();
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    return fail(ErrorCode::bad_input,
                "The film is damaged or made to do harm: decoding it failed and was stopped. Nothing else is touched.");
}

std::string unfinished_film_name(const std::string& file) {
    const auto dot = file.rfind('.');
    return dot == std::string::npos ? file + ".part" : file.substr(0, dot) + ".part" + file.substr(dot);
}

}  // namespace rendak
