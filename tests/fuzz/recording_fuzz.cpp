#include "core/recording/recording_file.h"
#include "tests/fuzz/fuzz.h"

#include <unistd.h>

#include <fstream>

// The wrapper around HDF5: its own attributes and datasets are read with checks; HDF5's inner structures are HDF5's.
int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (const auto read = rendak::open_recording(rendak::fuzz::as_file(data, size)))
        (void)rendak::content_digest(**read);
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    rendak::Recording recording;
    rendak::ChannelStorage floats, doubles;
    for (int i = 0; i < 200; ++i) {
        floats.floats.push_back(static_cast<float>(i));
        doubles.doubles.push_back(i);
        doubles.times_s.push_back(0.1 * i);
    }
    recording.channels.push_back(rendak::make_channel("Speed", "speed", "m/s", std::move(floats), 0, 10));
    recording.channels.push_back(rendak::make_channel("Latitude", "latitude", "deg", std::move(doubles)));
    const auto file = std::filesystem::temp_directory_path() / ("fuzz-seed-" + std::to_string(::getpid()) + ".rdk.h5");
    if (!rendak::write_recording(recording, file)) std::abort();
    std::ifstream stream(file, std::ios::binary);
    std::string bytes{std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>()};
    std::filesystem::remove(file);
    return {bytes};
}
