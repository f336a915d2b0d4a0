#pragma once

#include "core/recording/mdf_file.h"
#include "core/recording/mdf_values.h"

namespace rendak::mdf {

/// The conversion in the CC block at this place; none when there is no such block. One that is not understood comes
/// back as Kind::unknown.
[[nodiscard]] Conversion read_conversion(const File& file, std::uint64_t place);

}  // namespace rendak::mdf
