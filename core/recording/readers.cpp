#include "core/recording/readers.h"

#include <fstream>

#include "core/recording/gpx.h"
#include "core/recording/mdf.h"
#include "core/recording/recording_file.h"

namespace rendak {
namespace {

/// Channels without a quantity get the one that the user gave their name, when the unit agrees.
void apply_aliases(Recording& recording, const Aliases& aliases) {
    for (Channel& channel : recording.channels) {
        if (!channel.quantity.empty() || aliases.empty()) continue;
        const Quantity* quantity = match_quantity(channel.name, aliases);
        if (quantity == nullptr || recording.find(quantity->id) != nullptr || channel.unit != quantity->unit) continue;
        channel.quantity = quantity->id;
    }
}

Result<ReadRecording> read_recording_file(const std::filesystem::path& file, const Aliases& aliases) {
    auto recording = open_recording(file);
    if (!recording) return pass_on(recording.error());
    if ((*recording)->channels.empty()) {
        return fail(ErrorCode::bad_input, "The recording holds no channels.", file.string());
    }
    ReadRecording out{**recording, {}};
    apply_aliases(out.recording, aliases);
    return out;
}

}  // namespace

FileKind file_kind(const std::filesystem::path& file) {
    if (is_recording_file(file)) return FileKind::recording;
    std::ifstream stream(file, std::ios::binary);
    std::string head(4096, '\0');
    stream.read(head.data(), static_cast<std::streamsize>(head.size()));
    head.resize(static_cast<std::size_t>(stream.gcount()));
    if (looks_like_mdf(head)) return FileKind::mdf;
    if (looks_like_gpx(head)) return FileKind::gpx;
    return FileKind::table;
}

Result<ReadRecording> read_logged_file(const std::filesystem::path& file, const ReadOptions& options,
                                       const JobContext& job) {
    switch (file_kind(file)) {
        case FileKind::recording:
            return read_recording_file(file, options.csv.aliases);
        case FileKind::mdf:
            return read_mdf(file, options.csv.aliases, job);
        case FileKind::gpx:
            return read_gpx(file, job);
        case FileKind::table:
            break;
    }
    return read_csv(file, options.csv, job);
}

}  // namespace rendak
