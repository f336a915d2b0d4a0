#include "core/recording/readers.h"

#include "core/base/file_io.h"
#include "core/base/text.h"
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

Result<ReadRecording> read_recording_file(const std::filesystem::path& file, const Aliases& aliases,
                                          const JobContext& job) {
    auto recording = open_recording(file, job);
    if (!recording) return pass_on(recording.error());
    if ((*recording)->channels.empty()) {
        return fail(ErrorCode::bad_input, "The recording holds no channels.", file.string());
    }
    ReadRecording out{**recording, {}};
    apply_aliases(out.recording, aliases);
    return out;
}

/// Names and notes as they may be shown and printed anywhere.
void make_printable(ReadRecording& read) {
    Recording& recording = read.recording;
    recording.source_name = printable(recording.source_name);
    recording.logger = printable(recording.logger);
    for (Channel& channel : recording.channels) {
        for (std::string* text : {&channel.name, &channel.quantity, &channel.unit, &channel.source_unit})
            *text = printable(*text);
    }
    for (std::string& note : read.notes) note = printable(note);
}

Result<ReadRecording> read_any(const std::filesystem::path& file, const ReadOptions& options, const JobContext& job) {
    switch (file_kind(file)) {
        case FileKind::recording:
            return read_recording_file(file, options.csv.aliases, job);
        case FileKind::mdf:
            return read_mdf(file, options.csv.aliases, job);
        case FileKind::gpx:
            return read_gpx(file, job);
        case FileKind::table:
            break;
    }
    return read_csv(file, options.csv, job);
}

}  // namespace

FileKind file_kind(const std::filesystem::path& file) {
    // What cannot be opened is a table, whose reader says why.
    const std::string head = read_head(file, 4096).value_or("");
    if (looks_like_recording(head)) return FileKind::recording;
    if (looks_like_mdf(head)) return FileKind::mdf;
    if (looks_like_gpx(head)) return FileKind::gpx;
    return FileKind::table;
}

Result<ReadRecording> read_logged_file(const std::filesystem::path& file, const ReadOptions& options,
                                       const JobContext& job) {
    auto read = read_any(file, options, job);
    if (read) make_printable(*read);
    return read;
}

}  // namespace rendak
