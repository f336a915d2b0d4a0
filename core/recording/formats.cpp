#include "core/recording/formats.h"

#include <algorithm>

#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/recording/csv_writer.h"
#include "core/recording/gpx.h"
#include "core/recording/mdf.h"
#include "core/recording/recording_file.h"

namespace rendak {
namespace {

Result<ReadRecording> read_own(const std::filesystem::path& file, const ReadOptions& options, const JobContext& job) {
    auto recording = open_recording(file, job);
    if (!recording) return pass_on(recording.error());
    if ((*recording)->channels.empty())
        return fail(ErrorCode::bad_input, "The recording holds no channels.", file.string());
    ReadRecording out{**recording, {}};
    apply_aliases(out.recording, options.csv.aliases);
    return out;
}

}  // namespace

std::span<const FileFormat> all_formats() {
    static const FileFormat formats[] = {
        {"csv",
         "Tables",
         {".csv", ".txt"},
         nullptr,
         [](const auto& file, const auto& options, const auto& job) { return read_csv(file, options.csv, job); },
         [](const auto& recording, const auto& file) { return write_csv(recording, file); }},
        {"mdf",
         "MDF 4",
         {".mf4"},
         looks_like_mdf,
         [](const auto& file, const auto& options, const auto& job) {
             return read_mdf(file, options.csv.aliases, job);
         },
         [](const auto& recording, const auto& file) { return write_mdf(recording, file); }},
        {"gpx",
         "GPX",
         {".gpx"},
         looks_like_gpx,
         [](const auto& file, const auto&, const auto& job) { return read_gpx(file, job); },
         [](const auto& recording, const auto& file) { return write_gpx(recording, file); }},
        {"h5",
         "Recordings",
         {".rdk.h5", ".h5", ".hdf5"},
         looks_like_hdf5,
         read_own,
         [](const auto& recording, const auto& file) { return write_recording(recording, file); }},
    };
    return formats;
}

const FileFormat& format_of(const std::filesystem::path& file) {
    const std::string head = read_head(file, 4096).value_or("");
    for (const FileFormat& format : all_formats()) {
        if (format.looks_like == nullptr || !format.looks_like(head)) continue;
        if (format.looks_like == looks_like_hdf5 && is_hdf5_of_others(file)) break;
        return format;
    }
    return *std::find_if(all_formats().begin(), all_formats().end(), is_table);
}

const FileFormat* find_format(std::string_view id) {
    for (const FileFormat& format : all_formats()) {
        if (id == format.id) return &format;
    }
    return nullptr;
}

bool is_named_like_logged(const std::filesystem::path& file) {
    const std::string name = lower(file.filename().string());
    for (const FileFormat& format : all_formats()) {
        for (const std::string_view ending : format.endings) {
            if (name.ends_with(ending)) return true;
        }
    }
    return false;
}

bool is_table(const FileFormat& format) {
    return format.looks_like == nullptr;
}

}  // namespace rendak
