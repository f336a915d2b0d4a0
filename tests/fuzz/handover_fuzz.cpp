// What the reader process hands over: HDF5 may have lost control of it, so nothing in it is trusted.
#include "core/recording/handover.h"

#include <sys/mman.h>
#include <unistd.h>

#include "tests/fuzz/fuzz.h"

int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto read = rendak::read_handover({reinterpret_cast<const char*>(data), size}, "fuzz");
    if (read) {
        std::size_t total = 0;
        for (const auto& channel : read->channels) total += channel.name.size() + channel.samples.count;
        if (total == 12345678901234567ULL) __builtin_trap();
    }
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    std::vector<std::string> out;
    for (const bool fine : {true, false}) {
        const int fd = ::memfd_create("seed", MFD_CLOEXEC);
        HandoverWriter writer(fd, 1U << 20);
        HandedRecording recording;
        recording.source_name = "run.csv";
        recording.start_unix_s = 1.7e9;
        for (const char* name : {"Speed", "Brake"}) {
            HandedChannel channel;
            channel.name = name;
            channel.rate_hz = 10;
            channel.samples = *writer.reserve(10, 4);
            recording.channels.push_back(channel);
        }
        (void)writer.finish(fine ? Result<HandedRecording>(recording)
                                 : Result<HandedRecording>(fail(ErrorCode::bad_input, "damaged")));
        std::string bytes(4096, '\0');
        bytes.resize(static_cast<std::size_t>(::pread(fd, bytes.data(), bytes.size(), 0)));
        ::close(fd);
        out.push_back(bytes);
    }
    return out;
}
