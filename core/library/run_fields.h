#pragma once

#include <span>

#include "core/library/rows.h"

namespace rendak {

/// A field of a run that people fill in and nothing else refers to. The catalogue, bundles, the command line and the
/// panel of facts go by the table of these; event, session, driver, car and setup sheet are things of their own.
struct RunField {
    enum class Kind { text, number, lap_time };
    const char* id;      ///< column of the catalogue, key in bundles and in JSON
    const char* option;  ///< on the command line
    const char* label;   ///< to be translated
    const char* hint;    ///< to be translated; what stands in the empty field
    Kind kind;
    std::string RunFacts::*text;              ///< of a text
    std::optional<double> RunFacts::*number;  ///< of a number (SI; litres for fuel) or a lap time
    const char* choices = nullptr;            ///< "tyre_sets": the catalogue offers what was entered before

    [[nodiscard]] bool is_text() const { return kind == Kind::text; }
};
[[nodiscard]] std::span<const RunField> all_run_fields();

/// ", r.tyre_set, r.tyre_laps …": all columns with something before each.
[[nodiscard]] std::string run_field_columns(const char* before, const char* after = "");

}  // namespace rendak
