#pragma once

#include "core/base/result.h"
#include "core/library/rows.h"

namespace rendak {

/// What is said of a run whose recording cannot be opened (code not_found: is missing; exists: is another one than was
/// filed; else: cannot be read), and how it is mended.
[[nodiscard]] std::string damage_sentence(const RunRow& row, const Error& error);

}  // namespace rendak
