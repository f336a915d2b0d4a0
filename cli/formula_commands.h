#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace rendak::cli {

/// `text` is a formula, "name in unit = formula", or a file that holds one or a formula set.
int check_formula(const std::string& library, const std::string& text, const std::string& unit, std::int64_t run);
/// Statistics over the laps asked for (0: the whole run), or all samples.
int evaluate_formula(const std::string& library, std::int64_t run, int lap, const std::string& text,
                     const std::string& unit, bool samples);
int list_formula_sets(const std::string& library);
int export_formula_set(const std::string& library, const std::string& name, const std::string& file);
/// Clashing formulas stay as they are unless they are named in `take` or `both`; `look` only says what would change.
int import_formula_set(const std::string& library, const std::string& file, const std::string& as,
                       const std::vector<std::string>& take, const std::vector<std::string>& both, bool look);
/// Means of channels over a standing range (found when empty), with scatter.
int measure_at_rest(const std::string& library, std::int64_t run, const std::vector<std::string>& channels,
                    const std::vector<double>& range_s);

}  // namespace rendak::cli
