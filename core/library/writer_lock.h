#pragma once

#include <filesystem>

#include "core/base/file_io.h"

namespace rendak {

/// Held (shared) while files are written into the library's folder, so that nobody sweeps them away as left-overs; held
/// alone by who sweeps.
class WriterLock {
  public:
    enum class Kind { shared, alone_or_not_at_all };
    WriterLock(const std::filesystem::path& folder, Kind kind);
    [[nodiscard]] bool held() const { return held_; }

  private:
    Descriptor file_;
    bool held_;
};

}  // namespace rendak
