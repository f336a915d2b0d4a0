#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/library/rows.h"

namespace rendak {

/// One value that two sheets do not share. An empty side: the line is not there. Names are compared without case
/// and punctuation, values as numbers where both are numbers.
struct SheetDifference {
    std::string name, before, after, unit;
};
[[nodiscard]] std::vector<SheetDifference> sheet_differences(std::span<const SheetValue> before,
                                                             std::span<const SheetValue> after);

/// "Rear wing 9 to 5 °; brake ducts closed to open": what a person would write down.
[[nodiscard]] std::string changes_text(std::span<const SheetDifference> differences);

}  // namespace rendak
