#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/formula/kernels.h"

namespace rendak::formula {

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

class CallTypes;
class CallSamples;

/// Whether a result steps from value to value.
enum class Steps { no, yes, as_arguments };

/// Sample by sample, on plain numbers; conditions are 1 and 0, missing is NaN.
struct Pointwise {
    double (*value)(std::span<const double>) = nullptr;
    /// The same on blocks. With a repeated parameter it is run over the first two arguments, its result and the third
    /// …
    Kernel kernel = nullptr;
    bool sees_missing = false;  ///< else one missing argument makes the result missing
};

/// A table of constants (its lists are the arguments behind the first) read at each sample.
struct Table {
    double (*value)(double x, std::span<const double> xs, std::span<const double> ys,
                    std::span<const double> slopes) = nullptr;
    std::vector<double> (*slopes)(std::span<const double> xs, std::span<const double> ys) = nullptr;
};

/// Functions with a memory: the samples that the call asks for, empty when it noted a problem.
using OverTime = std::vector<float> (*)(CallSamples&);
enum class Places { no, always, between };  ///< between: only when from= or to= is given

/// What a row of one of the three tables (pointwise_functions.cpp, time_functions.cpp, lap_functions.cpp) says.
struct FunctionRow {
    std::string_view name, group;
    std::string_view parameters;  ///< "x:number size:time per:per?"; ? optional, * repeated
    std::string_view help;
    bool (*type)(CallTypes&) = nullptr;  ///< sets the type of the result; false: noted a problem
    Steps steps = Steps::no;
    // One of these says how it is computed.
    Pointwise pointwise = {};
    Table table = {};
    OverTime over_time = nullptr;
    bool is_choice = false;      ///< where( )
    bool takes_first = false;    ///< first_of( )
    bool sets_rate = false;      ///< resample( )
    Places places = Places::no;  ///< whether it must know where on the track the car was
};
[[nodiscard]] std::span<const FunctionRow> pointwise_functions();
[[nodiscard]] std::span<const FunctionRow> time_functions();
[[nodiscard]] std::span<const FunctionRow> lap_functions();

struct Function {
    std::string name, group, help;
    std::vector<Parameter> parameters;
    const FunctionRow* row = nullptr;
    [[nodiscard]] std::string signature() const;  ///< "clip(x, low, high)"
    [[nodiscard]] bool is_over_time() const { return row->over_time != nullptr; }
};

/// All functions, in the order in which lists show them.
[[nodiscard]] std::span<const Function> all_functions();
[[nodiscard]] const Function* find_function(std::string_view name);

/// Names that stand for the run itself rather than a channel: time, lap_time, distance, what the driver does …
struct Builtin {
    std::string_view name, unit, help;
    bool is_state = false;
    bool is_condition = false;
};
[[nodiscard]] std::span<const Builtin> all_builtins();
[[nodiscard]] const Builtin* find_builtin(std::string_view name);

/// The name nearest to a misspelt one (Damerau 1964), or "" when none is near.
[[nodiscard]] std::string nearest(std::string_view name, std::span<const std::string> known);

}  // namespace rendak::formula
