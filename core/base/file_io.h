#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace rendak {

/// An open file, closed with the object.
class Descriptor {
  public:
    explicit Descriptor(int fd = -1) : fd_(fd) {}
    ~Descriptor();
    Descriptor(Descriptor&& other) noexcept : fd_(std::exchange(other.fd_, -1)) {}
    Descriptor& operator=(Descriptor&&) = delete;
    [[nodiscard]] int fd() const { return fd_; }
    [[nodiscard]] bool ok() const { return fd_ >= 0; }

  private:
    int fd_;
};

/// Opens a regular file for reading. Folders, pipes, sockets and devices are refused, and never waited for; so is a
/// file that claims far more bytes than the disk holds of it.
[[nodiscard]] Result<Descriptor> open_regular(const std::filesystem::path& file);

/// A whole regular file mapped read-only. Spans into it stay valid while a copy of the pointer lives. When the file
/// shrinks meanwhile, what is gone reads as bytes 255 (not a number, as samples) and shrank() says so: without this the
/// system would end the process.
class MappedFile {
  public:
    [[nodiscard]] static Result<std::shared_ptr<const MappedFile>> open(const std::filesystem::path& file);
    /// The same of an open file; `shown_name` for errors.
    [[nodiscard]] static Result<std::shared_ptr<const MappedFile>> of(const Descriptor& file,
                                                                      const std::filesystem::path& shown_name);
    ~MappedFile();
    MappedFile(const MappedFile&) = delete;
    MappedFile& operator=(const MappedFile&) = delete;

    [[nodiscard]] const char* data() const { return data_; }
    [[nodiscard]] std::size_t size() const { return size_; }
    [[nodiscard]] std::string_view text() const { return {data_, size_}; }
    [[nodiscard]] bool shrank() const;

  private:
    MappedFile(const char* data, std::size_t size, int guard) : data_(data), size_(size), guard_(guard) {}
    const char* data_;
    std::size_t size_;
    int guard_;  ///< place in the table of guarded mappings
};

/// What tells one state of a file from another without reading it: device, number, size, times. A file that keeps it
/// was not written in between.
using FileState = std::array<std::int64_t, 7>;
[[nodiscard]] std::optional<FileState> state_of(const std::filesystem::path& file);
[[nodiscard]] std::optional<FileState> state_of(const Descriptor& file);

/// The first bytes of a regular file; shorter when it is.
[[nodiscard]] Result<std::string> read_head(const std::filesystem::path& file, std::size_t most);

/// A whole small file; one of more than `most` bytes is an error.
[[nodiscard]] Result<std::string> read_text_file(const std::filesystem::path& file, std::size_t most = 64U << 20);

/// For a file that shrank while it was read.
[[nodiscard]] Error file_changed(const std::filesystem::path& file);

/// A sentence for the current errno: what could not be done and what to do about it.
[[nodiscard]] Error io_error(std::string_view what, const std::filesystem::path& file, int error_number);

/// A file being written under a name that only unfinished files of Rendak have, in the folder of its final place. It
/// gets that place with finish(), and is taken away when it does not come to that.
class OutputFile {
  public:
    /// Links are followed; folders, pipes and devices are refused: only a regular file is ever replaced.
    [[nodiscard]] static Result<OutputFile> begin(const std::filesystem::path& file);
    ~OutputFile();
    OutputFile(OutputFile&& other) noexcept
        : part_(std::exchange(other.part_, {})), final_(std::move(other.final_)), mode_(other.mode_) {}
    OutputFile& operator=(OutputFile&&) = delete;

    /// Where to write; nothing is there yet.
    [[nodiscard]] const std::filesystem::path& part() const { return part_; }
    /// Flushes the file to the disk and gives it its name; the rights of a file that it replaces are kept.
    [[nodiscard]] Result<void> finish();

  private:
    OutputFile(std::filesystem::path part, std::filesystem::path final_name, int mode)
        : part_(std::move(part)), final_(std::move(final_name)), mode_(mode) {}
    std::filesystem::path part_, final_;
    int mode_;  ///< of the file that is replaced; -1: there is none
};

/// Flushes a file, or the names in a folder, to the disk; the errno of what failed, or 0.
[[nodiscard]] int flush_to_disk(const std::filesystem::path& file_or_folder);

/// Flushes a file and gives it another name in the same file system; the file of that name is replaced.
[[nodiscard]] Result<void> move_into_place(const std::filesystem::path& from, const std::filesystem::path& to);

/// Writes `text` through an OutputFile.
[[nodiscard]] Result<void> write_file(const std::filesystem::path& file, std::string_view text);

/// A name in the folder of `file` that no other process uses: ".rendak-part-", marks of the machine and the process,
/// and the file's own.
[[nodiscard]] std::filesystem::path temporary_name(const std::filesystem::path& file);
/// Whether a name is one of temporary_name().
[[nodiscard]] bool is_temporary_name(const std::filesystem::path& file);
/// The name of the file that a temporary name stands for; empty when it is none.
[[nodiscard]] std::string name_behind(const std::filesystem::path& temporary);

/// Half of the memory that this computer has free now: what the reading of one file may take.
[[nodiscard]] std::size_t memory_for_one_file();

}  // namespace rendak
