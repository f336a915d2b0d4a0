#pragma once

#include <filesystem>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/recording/readers.h"

namespace rendak {

/// A kind of file with logged data. All that reads, writes, lists or offers files goes by the table of these.
struct FileFormat {
    const char* id;     ///< on the command line
    const char* label;  ///< in file dialogs
    /// Endings of names, in small letters; the first is given to files that are written.
    std::vector<std::string_view> endings;
    /// Whether the first 4 kB of a file are of this kind; null: tried when nothing else is recognised.
    bool (*looks_like)(std::string_view head);
    Result<ReadRecording> (*read)(const std::filesystem::path& file, const ReadOptions& options, const JobContext& job);
    Result<void> (*write)(const Recording& recording, const std::filesystem::path& file);
};
[[nodiscard]] std::span<const FileFormat> all_formats();

/// By the first bytes, not by the name. What cannot be opened is a table, whose reader says why; HDF5 of another
/// program is one, too.
[[nodiscard]] const FileFormat& format_of(const std::filesystem::path& file);
/// Null when there is none of that id.
[[nodiscard]] const FileFormat* find_format(std::string_view id);
/// Whether a file's name ends like a logged file's.
[[nodiscard]] bool is_named_like_logged(const std::filesystem::path& file);
[[nodiscard]] bool is_table(const FileFormat& format);

}  // namespace rendak
