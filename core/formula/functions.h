#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace rendak::formula {

enum class Fn {
    // one sample at a time
    abs,
    sqrt,
    cbrt,
    exp,
    log,
    log10,
    log2,
    sin,
    cos,
    tan,
    arcsin,
    arccos,
    arctan,
    arctan2,
    hypot,
    sign,
    floor,
    ceil,
    rint,
    trunc,
    mod,
    minimum,
    maximum,
    clip,
    where,
    isnan,
    nan_to_num,
    coalesce,
    first_of,
    number,
    bitwise_and,
    bitwise_or,
    bitwise_xor,
    left_shift,
    right_shift,
    bit,
    // tables
    interp,
    pchip,
    polyval,
    // over time
    gradient,
    cumulative_trapezoid,
    delay,
    uniform_filter,
    minimum_filter,
    maximum_filter,
    median_filter,
    lowpass,
    highpass,
    savgol_filter,
    resample,
    // conditions over time
    hysteresis,
    debounce,
    lasting,
    count_rises,
    // over a lap or the run
    time_while,
    distance_while,
    share_while,
    mean,
    min,
    max,
    std,
    ptp,
    median,
    first,
    last,
    value_at,
};

/// What an argument must be.
enum class Shape {
    number,     ///< a number of any unit, sample by sample
    condition,  ///< true or false, sample by sample
    any,        ///< either of the two
    plain,      ///< a plain number, sample by sample
    constant,   ///< one number of any unit for the whole run
    count,      ///< one plain number for the whole run
    time,       ///< one time for the whole run
    rate,       ///< one rate (Hz) for the whole run
    length,     ///< one length for the whole run
    list,       ///< [constants of one unit]
    per,        ///< the word lap or run
    reset,      ///< lap, run or a condition
};

struct Parameter {
    std::string name;
    Shape shape = Shape::number;
    bool optional = false;
    bool repeated = false;  ///< the last one may come any number of times
};

struct Function {
    Fn fn;
    std::string name, group, help;
    std::vector<Parameter> parameters;
    [[nodiscard]] std::string signature() const;  ///< "clip(x, low, high)"
};

/// All functions, in the order in which lists show them.
[[nodiscard]] std::span<const Function> all_functions();
[[nodiscard]] const Function* find_function(std::string_view name);
[[nodiscard]] const Function& function(Fn fn);

/// Names that stand for the run itself rather than a channel: time, lap_time, distance ...
struct Builtin {
    std::string_view name, unit, help;
    bool is_state = false;
};
[[nodiscard]] std::span<const Builtin> all_builtins();
[[nodiscard]] const Builtin* find_builtin(std::string_view name);

/// The name nearest to a misspelt one (Damerau 1964), or "" when none is near.
[[nodiscard]] std::string nearest(std::string_view name, std::span<const std::string> known);

}  // namespace rendak::formula
