#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <string>

#include "core/base/file_io.h"
#include "core/base/ids.h"

namespace rendak {

/// What was computed from a run and can be computed again at will, kept beside the recordings in derived/ and mapped
/// like them. `key` names everything that it was computed from, and how: another key is another content.
class Derived {
  public:
    Derived(std::filesystem::path library, std::string recording_digest, RunId run, const std::string& key);

    /// The content, whole as it was written; null when there is none (or it is damaged), and it is to be computed.
    [[nodiscard]] std::shared_ptr<const MappedFile> open() const;
    /// Where the content begins in the mapped file; a multiple of 64.
    static constexpr std::size_t begin = 128;
    /// Writes a content, in place of what was kept of this run before. What cannot be written is computed again the
    /// next time: no error of anybody's.
    void put(const std::function<bool(std::FILE*)>& write) const;

    /// Takes away what belongs to recordings that `is_known` does not know, and what nobody finished. Only while nobody
    /// else writes.
    static void sweep(const std::filesystem::path& library, const std::function<bool(const std::string&)>& is_known);

  private:
    std::filesystem::path library_, file_;
    std::string of_run_;  ///< how names of this run's files begin
    std::string key_;
};

}  // namespace rendak
