#include "core/recording/readers.h"

#include "core/recording/recording_file.h"

namespace rendak {

Result<ReadRecording> read_logged_file(const std::filesystem::path& file, const ReadOptions& options,
                                       const JobContext& job) {
    if (!is_recording_file(file)) return read_csv(file, options.csv, job);
    auto recording = open_recording(file);
    if (!recording) return pass_on(recording.error());
    if ((*recording)->channels.empty()) {
        return fail(ErrorCode::bad_input, "The recording holds no channels.", file.string());
    }
    return ReadRecording{**recording, {}};
}

}  // namespace rendak
