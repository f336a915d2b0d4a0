#include "core/recording/readers.h"

#include "core/base/text.h"
#include "core/recording/formats.h"

namespace rendak {
namespace {

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

}  // namespace

void apply_aliases(Recording& recording, const Aliases& aliases) {
    for (Channel& channel : recording.channels) {
        if (!channel.quantity.empty() || aliases.empty()) continue;
        const Quantity* quantity = match_quantity(channel.name, aliases);
        if (quantity == nullptr || recording.find(quantity->id) != nullptr || channel.unit != quantity->unit) continue;
        channel.quantity = quantity->id;
    }
}

Result<ReadRecording> read_logged_file(const std::filesystem::path& file, const ReadOptions& options,
                                       const JobContext& job) {
    auto read = format_of(file).read(file, options, job);
    if (read) make_printable(*read);
    return read;
}

}  // namespace rendak
