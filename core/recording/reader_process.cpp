#include "core/recording/reader_process.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <chrono>
#include <cstdlib>
#include <string>

#include "core/base/address_sanitizer.h"
#include "core/base/own_program.h"
#include "core/base/spill.h"
#include "core/recording/h5_layout.h"
#include "core/recording/h5_table.h"

extern char** environ;

namespace rendak {
namespace {

namespace fs = std::filesystem;

const std::array<const char*, 3> words{"kind", "recording", "table"};

constexpr int file_fd = 3, handover_fd = 4;
/// Far above what a sound file needs; a minute of computing for what has to be unpacked.
constexpr rlim_t most_cpu_s = 60;
constexpr int most_wall_s = 120;
constexpr std::uint64_t large_table = 8U << 20;
[[maybe_unused]] constexpr rlim_t most_memory = rlim_t{1} << 30;

/// The text of a large table need not fit into the memory.
Descriptor room_for(const WantedOfFile& wanted, std::uint64_t file_size) {
    if (wanted.what == WantedOfFile::What::table && file_size > large_table) {
        if (Descriptor file = spill_file(); file.ok()) return file;
    }
    return Descriptor(::memfd_create("rendak-handover", MFD_CLOEXEC | MFD_ALLOW_SEALING));
}

/// A copy of a descriptor above those that the child gets, so that none of them is overwritten.
Descriptor high_copy(int fd) {
    return Descriptor(::fcntl(fd, F_DUPFD_CLOEXEC, 16));
}

Result<pid_t> spawn(const fs::path& program, int file, int handover, std::uint64_t most_bytes,
                    const WantedOfFile& wanted, const fs::path& shown_name) {
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, 0, "/dev/null", O_RDWR, 0);
    posix_spawn_file_actions_adddup2(&actions, 0, 1);
    posix_spawn_file_actions_adddup2(&actions, 0, 2);
    posix_spawn_file_actions_adddup2(&actions, file, file_fd);
    posix_spawn_file_actions_adddup2(&actions, handover, handover_fd);
    std::string name = program.string(), size = std::to_string(most_bytes), rows = std::to_string(wanted.most_rows);
    std::string what = words[static_cast<std::size_t>(wanted.what)];
    char* arguments[] = {name.data(), size.data(), what.data(), rows.data(), nullptr};
    pid_t child = 0;
    const int code = ::posix_spawn(&child, program.c_str(), &actions, nullptr, arguments, environ);
    posix_spawn_file_actions_destroy(&actions);
    if (code != 0) return pass_on(io_error("start the reader of recordings", shown_name, code));
    return child;
}

/// Waits for a child, not longer than it may take and not for a user who has given up. True: it ended well.
bool ended_well(pid_t child, const JobContext& job) {
    const auto begin = std::chrono::steady_clock::now();
    // The kernel wakes us when it ends; without pidfd the short timeout does.
    const Descriptor end(static_cast<int>(::syscall(SYS_pidfd_open, child, 0)));
    int status = 0;
    for (;;) {
        pollfd waiting{end.fd(), POLLIN, 0};
        ::poll(&waiting, 1, end.ok() ? 50 : 2);
        const pid_t got = ::waitpid(child, &status, WNOHANG);
        if (got == child) return WIFEXITED(status) && WEXITSTATUS(status) == 0;
        if (got < 0 && errno != EINTR) return false;
        const bool too_long = std::chrono::steady_clock::now() - begin > std::chrono::seconds(most_wall_s);
        if (!too_long && !job.stopped()) continue;
        ::kill(child, SIGKILL);
        while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
        }
        return false;
    }
}

void limit(int what, rlim_t most) {
    const rlimit both{most, most};
    ::setrlimit(static_cast<__rlimit_resource_t>(what), &both);
}

/// No file beyond those that are open now.
void close_the_door() {
    const int next = ::dup(0);
    if (next < 0) return;
    ::close(next);
    limit(RLIMIT_NOFILE, static_cast<rlim_t>(next));
}

}  // namespace

Result<ReadInProcess> read_in_process(const Descriptor& file, std::uint64_t file_size, const fs::path& shown_name,
                                      const WantedOfFile& wanted, const JobContext& job) {
    const fs::path program = own_program("rendak-reader");
    if (program.empty())
        return fail(ErrorCode::io, "The program rendak-reader is missing beside this one. Install Rendak again.",
                    shown_name.string());
    const Descriptor memory = room_for(wanted, file_size);
    const Descriptor input = high_copy(file.fd()), output = high_copy(memory.fd());
    if (!memory.ok() || !input.ok() || !output.ok()) return pass_on(io_error("open the file", shown_name, errno));
    const std::uint64_t most = std::min<std::uint64_t>(file_size * 1032 + (1U << 20), memory_for_one_file());
    const auto child = spawn(program, input.fd(), output.fd(), most, wanted, shown_name);
    if (!child) return pass_on(child.error());
    const bool well = ended_well(*child, job);
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", shown_name.string());
    if (!well)
        return fail(ErrorCode::bad_input,
                    "The recording is damaged or made to do harm: reading it failed and was stopped. Copy it again "
                    "from where it came from; what is in the library is not touched.",
                    shown_name.string());
    // From here on nobody can change what is looked at.
    ::fcntl(memory.fd(), F_ADD_SEALS, F_SEAL_SHRINK | F_SEAL_GROW | F_SEAL_WRITE | F_SEAL_SEAL);
    auto mapping = MappedFile::of(memory, shown_name);
    if (!mapping) return pass_on(mapping.error());
    auto recording = read_handover((*mapping)->text(), shown_name.string());
    if (!recording) return pass_on(recording.error());
    return ReadInProcess{std::move(*recording), std::move(*mapping)};
}

std::optional<WantedOfFile> wanted_of_file(const char* what, const char* most_rows) {
    for (std::size_t i = 0; i < words.size(); ++i) {
        if (std::string_view(words[i]) == what)
            return WantedOfFile{static_cast<WantedOfFile::What>(i), std::strtoull(most_rows, nullptr, 10)};
    }
    return std::nullopt;
}

int run_reader(std::uint64_t most_bytes, const WantedOfFile& wanted) {
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    ::syscall(SYS_close_range, handover_fd + 1, ~0U, 0U);
    ::signal(SIGXFSZ, SIG_IGN);
    limit(RLIMIT_CORE, 0);
    limit(RLIMIT_CPU, most_cpu_s);
    limit(RLIMIT_FSIZE, most_bytes + (64U << 20));
#if !defined(RENDAK_ADDRESS_SANITIZER)
    limit(RLIMIT_AS, most_memory);  // the sanitizer's shadow alone is larger
#endif
    ::setenv("HDF5_USE_FILE_LOCKING", "FALSE", 1);
    ::setenv("HDF5_PLUGIN_PRELOAD", "::", 1);  // no filters from elsewhere
    struct stat info {};
    if (::fstat(file_fd, &info) != 0) return 1;
    HandoverWriter out(handover_fd, most_bytes);
    const fs::path file = "/proc/self/fd/" + std::to_string(file_fd);
    const auto size = static_cast<std::uint64_t>(info.st_size);
    const auto found = wanted.what == WantedOfFile::What::table
                           ? lay_out_as_table(file, size, wanted.most_rows, out, close_the_door)
                           : lay_open(file, size, wanted.what == WantedOfFile::What::kind, out, close_the_door);
    return out.finish(found) ? 0 : 1;
}

}  // namespace rendak
