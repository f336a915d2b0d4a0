#pragma once

#include <filesystem>
#include <string>

namespace rendak {

/// Files that were read and found to be what they should be. Known for this process, and in the library for a day, as
/// long as the disk says that nobody wrote to them: hours of recordings are not read again for every question.
class WholeFiles {
  public:
    explicit WholeFiles(std::filesystem::path library) : library_(std::move(library)) {}
    enum class Known { in_this_process, today };
    [[nodiscard]] bool holds(const std::filesystem::path& file, const std::string& digest,
                             Known known = Known::today) const;
    /// `keep`: for other processes too.
    void add(const std::filesystem::path& file, const std::string& digest, bool keep) const;
    /// Reads all of them again from now on, in this process.
    static void forget();

  private:
    [[nodiscard]] std::filesystem::path note_of(const std::filesystem::path& file) const;
    std::filesystem::path library_;
};

}  // namespace rendak
