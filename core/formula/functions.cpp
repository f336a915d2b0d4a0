#include "core/formula/functions.h"

#include <algorithm>
#include <array>

namespace rendak::formula {
namespace {

struct Row {
    Fn fn;
    std::string_view name, group;
    std::string_view parameters;  ///< "x:number size:time per:per?"; ? optional, * repeated
    std::string_view help;
};

constexpr Row rows[] = {
    {Fn::abs, "abs", "Arithmetic", "x:number", "x without its sign."},
    {Fn::sign, "sign", "Arithmetic", "x:number", "−1, 0 or 1."},
    {Fn::sqrt, "sqrt", "Arithmetic", "x:number", "Square root; its unit is rooted too. Missing below zero."},
    {Fn::cbrt, "cbrt", "Arithmetic", "x:number", "Cube root; its unit is rooted too."},
    {Fn::exp, "exp", "Arithmetic", "x:plain", "e to the power of x."},
    {Fn::log, "log", "Arithmetic", "x:plain", "Natural logarithm. Missing at and below zero."},
    {Fn::log10, "log10", "Arithmetic", "x:plain", "Logarithm to the base of 10."},
    {Fn::log2, "log2", "Arithmetic", "x:plain", "Logarithm to the base of 2."},
    {Fn::hypot, "hypot", "Arithmetic", "a:number b:number", "sqrt(a² + b²)."},
    {Fn::mod, "mod", "Arithmetic", "a:number b:number", "Remainder of a / b, with the sign of b."},
    {Fn::floor, "floor", "Arithmetic", "x:plain", "Next whole number below. Say in which unit: floor(speed / 1 km/h)."},
    {Fn::ceil, "ceil", "Arithmetic", "x:plain", "Next whole number above."},
    {Fn::rint, "rint", "Arithmetic", "x:plain", "Nearest whole number; halves go to the even one."},
    {Fn::trunc, "trunc", "Arithmetic", "x:plain", "Whole part, towards zero."},
    {Fn::minimum, "minimum", "Arithmetic", "a:number b:number*", "The smaller of its arguments, sample by sample."},
    {Fn::maximum, "maximum", "Arithmetic", "a:number b:number*", "The larger of its arguments, sample by sample."},
    {Fn::clip, "clip", "Arithmetic", "x:number low:number high:number", "x, held between low and high."},
    {Fn::sin, "sin", "Angles", "angle:number", "Sine of an angle (a plain number counts as radians)."},
    {Fn::cos, "cos", "Angles", "angle:number", "Cosine of an angle."},
    {Fn::tan, "tan", "Angles", "angle:number", "Tangent of an angle."},
    {Fn::arcsin, "arcsin", "Angles", "x:plain", "The angle whose sine is x; missing outside −1 … 1."},
    {Fn::arccos, "arccos", "Angles", "x:plain", "The angle whose cosine is x; missing outside −1 … 1."},
    {Fn::arctan, "arctan", "Angles", "x:plain", "The angle whose tangent is x."},
    {Fn::arctan2, "arctan2", "Angles", "y:number x:number", "The angle of the direction (x, y)."},
    {Fn::where, "where", "Choice", "condition:condition a:any b:any",
     "a where the condition holds, b elsewhere; the same as: a if condition else b."},
    {Fn::first_of, "first_of", "Choice", "a:any b:any*",
     "The first of its arguments that this run has: names the preferred source first. For channels and for constants "
     "of "
     "the car sheet with a value to fall back on."},
    {Fn::coalesce, "coalesce", "Choice", "a:any b:any*",
     "At each sample the first argument that is not missing there."},
    {Fn::isnan, "isnan", "Choice", "x:any", "True where x is missing."},
    {Fn::nan_to_num, "nan_to_num", "Choice", "x:number value:constant?", "x, with missing samples replaced (by 0)."},
    {Fn::number, "number", "Choice", "condition:condition", "1 where the condition holds, 0 elsewhere."},
    {Fn::bitwise_and, "bitwise_and", "Bits", "a:plain b:plain", "Bits set in both whole numbers (exact to 24 bits)."},
    {Fn::bitwise_or, "bitwise_or", "Bits", "a:plain b:plain", "Bits set in either."},
    {Fn::bitwise_xor, "bitwise_xor", "Bits", "a:plain b:plain", "Bits set in one of the two only."},
    {Fn::left_shift, "left_shift", "Bits", "a:plain count:count", "Bits moved up by count places (0 … 23)."},
    {Fn::right_shift, "right_shift", "Bits", "a:plain count:count", "Bits moved down by count places (0 … 23)."},
    {Fn::bit, "bit", "Bits", "a:plain number:count", "True where this bit is set; 0 is the lowest."},
    {Fn::interp, "interp", "Tables", "x:number xs:list ys:list",
     "Table with straight lines between its points; outside them the first or last value. xs must rise."},
    {Fn::pchip, "pchip", "Tables", "x:number xs:list ys:list",
     "Table with a smooth curve by pieces that never overshoots its points (Fritsch and Butland 1984)."},
    {Fn::polyval, "polyval", "Tables", "x:plain coefficients:list", "Polynomial; the highest power comes first."},
    {Fn::gradient, "gradient", "Over time", "x:number", "Change per second (central differences)."},
    {Fn::savgol_filter, "savgol_filter", "Over time", "x:number window:time polyorder:count? deriv:count?",
     "Smooth derivative: a polynomial (order 2) fitted around each sample (Savitzky and Golay 1964); deriv=0 only "
     "smooths, "
     "deriv=1 is the change per second."},
    {Fn::cumulative_trapezoid, "cumulative_trapezoid", "Over time", "x:number reset:reset?",
     "Integral over time so far. reset=lap begins anew at the line, reset=condition whenever the condition becomes "
     "true."},
    {Fn::delay, "delay", "Over time", "x:any by:time", "x as it was this long ago; negative looks ahead."},
    {Fn::lowpass, "lowpass", "Over time", "x:number cutoff:rate order:count?",
     "Keeps what is slower than the cut-off: Butterworth filter run both ways, so nothing comes late. Order 2 unless "
     "given (1 … 8)."},
    {Fn::highpass, "highpass", "Over time", "x:number cutoff:rate order:count?",
     "Keeps what is faster than the cut-off; both ways as lowpass."},
    {Fn::uniform_filter, "uniform_filter", "Over time", "x:number size:time", "Running mean over this long, centred."},
    {Fn::minimum_filter, "minimum_filter", "Over time", "x:number size:time", "Running lowest value, centred."},
    {Fn::maximum_filter, "maximum_filter", "Over time", "x:number size:time", "Running highest value, centred."},
    {Fn::median_filter, "median_filter", "Over time", "x:number size:time",
     "Running median, centred: takes out spikes."},
    {Fn::resample, "resample", "Over time", "x:any rate:rate", "x as a channel of this rate would have it."},
    {Fn::hysteresis, "hysteresis", "Conditions", "x:number low:number high:number",
     "Becomes true above high and false again below low."},
    {Fn::debounce, "debounce", "Conditions", "condition:condition time:time",
     "Follows the condition once it has kept its new value for this long."},
    {Fn::lasting, "lasting", "Conditions", "condition:condition time:time",
     "True only in stretches that last at least this long, from their beginning on."},
    {Fn::count_rises, "count_rises", "Conditions", "condition:condition per:per?",
     "How often the condition has become true so far, in the lap or (per=run) in the run."},
    {Fn::time_while, "time_while", "Lap figures", "condition:condition per:per?",
     "Time so far for which the condition held; begins anew at the line, so the value at its end is the lap's."},
    {Fn::distance_while, "distance_while", "Lap figures", "condition:condition per:per?",
     "Distance so far over which the condition held."},
    {Fn::share_while, "share_while", "Lap figures", "condition:condition per:per?",
     "Share of the time so far for which the condition held."},
    {Fn::mean, "mean", "Lap figures", "x:any from:length? to:length? where:condition? per:per?",
     "Mean of each lap; between two places, where a condition holds, or of the whole run (per=run)."},
    {Fn::min, "min", "Lap figures", "x:number from:length? to:length? where:condition? per:per?",
     "Lowest value of each lap."},
    {Fn::max, "max", "Lap figures", "x:number from:length? to:length? where:condition? per:per?",
     "Highest value of each lap."},
    {Fn::std, "std", "Lap figures", "x:number from:length? to:length? where:condition? per:per?",
     "Standard deviation within each lap."},
    {Fn::ptp, "ptp", "Lap figures", "x:number from:length? to:length? where:condition? per:per?",
     "Highest minus lowest value of each lap."},
    {Fn::median, "median", "Lap figures", "x:number from:length? to:length? where:condition? per:per?",
     "Median of each lap."},
    {Fn::first, "first", "Lap figures", "x:any per:per?", "Value at the beginning of each lap."},
    {Fn::last, "last", "Lap figures", "x:any per:per?", "Value at the end of each lap."},
    {Fn::value_at, "value_at", "Lap figures", "x:any place:length? time:time?",
     "Value of each lap at a place (metres from the line) or a time (since the line)."},
};

Shape shape_of(std::string_view word) {
    constexpr std::array<std::string_view, 12> names{"number", "condition", "any",    "plain", "constant", "count",
                                                     "time",   "rate",      "length", "list",  "per",      "reset"};
    return static_cast<Shape>(std::find(names.begin(), names.end(), word) - names.begin());
}

std::vector<Function> built() {
    std::vector<Function> out;
    for (const Row& row : rows) {
        Function function{row.fn, std::string(row.name), std::string(row.group), std::string(row.help), {}};
        std::string_view rest = row.parameters;
        while (!rest.empty()) {
            const auto blank = std::min(rest.find(' '), rest.size());
            std::string_view one = rest.substr(0, blank);
            rest.remove_prefix(std::min(blank + 1, rest.size()));
            Parameter parameter;
            parameter.optional = one.ends_with('?');
            parameter.repeated = one.ends_with('*');
            if (parameter.optional || parameter.repeated) one.remove_suffix(1);
            const auto colon = one.find(':');
            parameter.name = std::string(one.substr(0, colon));
            parameter.shape = shape_of(one.substr(colon + 1));
            function.parameters.push_back(std::move(parameter));
        }
        out.push_back(std::move(function));
    }
    return out;
}

const std::vector<Function>& table() {
    static const std::vector<Function> functions = built();
    return functions;
}

constexpr Builtin builtins[] = {
    {"time", "s", "Time since the recording began."},
    {"lap_time", "s", "Time since the line."},
    {"lap_number", "", "Number of the lap.", true},
    {"distance", "m", "Distance along the track since the line."},
    {"track_offset", "m", "How far left of the track's line the car is."},
    {"track_curvature", "1/m", "Curvature of the track's line; left is positive."},
    {"edge_left", "m", "Distance to the left edge, where the track's edges are known."},
    {"edge_right", "m", "Distance to the right edge, where the track's edges are known."},
    {"ideal_offset", "m",
     "How far left of the track's line the line of least curvature runs, where the edges are known."},
};

}  // namespace

std::string Function::signature() const {
    std::string out = name + "(";
    for (std::size_t i = 0; i < parameters.size(); ++i) {
        const Parameter& p = parameters[i];
        if (i > 0) out += ", ";
        out += p.optional ? p.name + "=…" : p.name;
        if (p.repeated) out += ", …";
    }
    return out + ")";
}

std::span<const Function> all_functions() {
    return table();
}

const Function* find_function(std::string_view name) {
    for (const Function& function : table()) {
        if (function.name == name) return &function;
    }
    return nullptr;
}

const Function& function(Fn fn) {
    return *std::find_if(table().begin(), table().end(), [&](const Function& it) { return it.fn == fn; });
}

std::span<const Builtin> all_builtins() {
    return builtins;
}

const Builtin* find_builtin(std::string_view name) {
    const auto found =
        std::find_if(std::begin(builtins), std::end(builtins), [&](const auto& it) { return it.name == name; });
    return found == std::end(builtins) ? nullptr : found;
}

std::string nearest(std::string_view name, std::span<const std::string> known) {
    constexpr std::size_t longest = 64;
    if (name.size() > longest) return {};
    std::string best;
    std::size_t best_distance = 1 + std::min<std::size_t>(3, (name.size() + 1) / 3);
    for (const std::string& other : known) {
        if (other.size() > longest) continue;
        // Rows of the edit distance: before last, last, this one.
        std::array<std::array<std::size_t, longest + 1>, 3> row{};
        for (std::size_t k = 0; k <= other.size(); ++k) row[1][k] = k;
        for (std::size_t i = 1; i <= name.size(); ++i) {
            row[2][0] = i;
            for (std::size_t k = 1; k <= other.size(); ++k) {
                const std::size_t change = name[i - 1] == other[k - 1] ? 0 : 1;
                row[2][k] = std::min({row[1][k] + 1, row[2][k - 1] + 1, row[1][k - 1] + change});
                if (i > 1 && k > 1 && name[i - 1] == other[k - 2] && name[i - 2] == other[k - 1])
                    row[2][k] = std::min(row[2][k], row[0][k - 2] + 1);
            }
            row[0] = row[1];
            row[1] = row[2];
        }
        std::size_t distance = row[1][other.size()];
        // A word that only has something missing at its end is near too ("brake" for brake_front).
        if (name.size() >= 4 && other.starts_with(name)) distance = std::min<std::size_t>(distance, 2);
        if (distance < best_distance) {
            best_distance = distance;
            best = other;
        }
    }
    return best;
}

}  // namespace rendak::formula
