#include <algorithm>
#include <cmath>
#include <limits>

#include "core/base/missing.h"
#include "core/formula/call_types.h"
#include "core/formula/functions.h"
#include "core/formula/scalar.h"
#include "core/units/unit.h"

namespace rendak::formula {
namespace {

using Values = std::span<const double>;
/// Rare functions run through their meaning, a sample at a time.
template <double (*value)(Values), std::size_t arguments>
void one_by_one(float* out, const float* a, const float* b, const float* c, const float* /*d*/, std::size_t n) {
    for (std::size_t i = 0; i < n; ++i) {
        const double x[3] = {static_cast<double>(a[i]), arguments > 1 ? static_cast<double>(b[i]) : 0,
                             arguments > 2 ? static_cast<double>(c[i]) : 0};
        const bool any_missing = std::any_of(x, x + arguments, [](double one) { return std::isnan(one); });
        out[i] = any_missing ? static_cast<float>(missing) : static_cast<float>(value(Values(x, arguments)));
    }
}

// ---- types ------------------------------------------------------------------------------------------

bool magnitude(CallTypes& call) {
    call.out() = call.type(0);
    call.out().weight = std::abs(call.out().weight);
    return true;
}

template <int root>
bool rooted(CallTypes& call) {
    const auto type = raised(call.type(0), 1.0 / root);
    if (!type) return call.wrong(0, "The unit of this has no such root.");
    call.out() = *type;
    return true;
}

bool of_angle(CallTypes& call) {
    if (call.type(0).is_angle() || call.type(0).is_plain()) return true;
    return call.wrong(0, call.name() + " needs an angle; this is " + call.said(0) + ".");
}

bool of_two_sides(CallTypes& call) {
    return call.agree(0, 1, "the two sides of one angle") && types::angle(call);
}

bool combined_types(CallTypes& call) {
    return call.agree(0, 1, call.name() == "mod" ? "divided with a remainder" : "combined") && types::difference(call);
}

bool chosen(CallTypes& call) {
    return call.choice(0, 1, 2);
}

bool shifted(CallTypes& call) {
    return call.whole_number(1, 0, 23);
}

bool tested_bit(CallTypes& call) {
    return call.whole_number(1, 0, 23) && types::condition(call);
}

bool tabled(CallTypes& call) {
    const auto xs = call.list(1), ys = call.list(2);
    Type points = call.type(1);
    points.kind = Type::Kind::number;
    if (!alike(call.type(0), points) || std::abs(call.type(0).weight - points.weight) > 1e-9)
        return call.wrong(1, "The table is read by " + described(points) + ", but x is " + call.said(0) + ".");
    if (xs.size() != ys.size())
        return call.wrong(2, "xs has " + std::to_string(xs.size()) + (xs.size() == 1 ? " value" : " values") +
                                 ", ys has " + std::to_string(ys.size()) + ".");
    if (xs.size() < 2) return call.wrong(1, "A table needs two points at least.");
    for (std::size_t k = 1; k < xs.size(); ++k) {
        if (!(xs[k] > xs[k - 1])) return call.wrong_item(1, k, "The values of xs must rise; this one does not.");
    }
    call.out() = call.type(2);
    call.out().kind = Type::Kind::number;
    return true;
}

bool polynomial(CallTypes& call) {
    call.out() = call.type(1);
    call.out().kind = Type::Kind::number;
    return true;
}

// ---- meanings that take more than a line --------------------------------------------------------------

/// Whole numbers that a float32 holds exactly; everything else has no bits.
bool has_bits(double x) {
    return x >= 0 && x <= 16777215 && x == std::floor(x);
}

template <class Operation>
double of_bits(Values x, Operation operation) {
    if (!has_bits(x[0]) || !has_bits(x[1])) return missing;
    return static_cast<double>(operation(static_cast<unsigned>(x[0]), static_cast<unsigned>(x[1])) & 0xFFFFFFU);
}

double clipped(Values x) {
    return std::min(std::max(x[0], x[1]), x[2]);
}
double both_bits(Values x) {
    return of_bits(x, [](unsigned p, unsigned q) { return p & q; });
}
double either_bit(Values x) {
    return of_bits(x, [](unsigned p, unsigned q) { return p | q; });
}
double one_bit(Values x) {
    return of_bits(x, [](unsigned p, unsigned q) { return p ^ q; });
}
double moved_up(Values x) {
    return of_bits(x, [](unsigned p, unsigned q) { return q > 23 ? 0U : p << q; });
}
double moved_down(Values x) {
    return of_bits(x, [](unsigned p, unsigned q) { return q > 23 ? 0U : p >> q; });
}
double bit_set(Values x) {
    return of_bits(x, [](unsigned p, unsigned q) { return q > 23 ? 0U : (p >> q) & 1U; });
}
double first_there(Values x) {
    const auto found = std::find_if(x.begin(), x.end(), [](double value) { return !std::isnan(value); });
    return found == x.end() ? missing : *found;
}

double line_table(double x, Values xs, Values ys, Values /*slopes*/) {
    return table_at(x, xs, ys);
}
double horner(double x, Values /*xs*/, Values coefficients, Values /*slopes*/) {
    double sum = 0;
    for (const double coefficient : coefficients) sum = sum * x + coefficient;
    return sum;
}

}  // namespace

std::span<const FunctionRow> pointwise_functions() {
    using namespace kernels;
    static const FunctionRow rows[] = {
        {"abs",
         "Arithmetic",
         "x:number",
         "x without its sign.",
         magnitude,
         Steps::as_arguments,
         {[](Values x) { return std::abs(x[0]); }, absolute}},
        {"sign",
         "Arithmetic",
         "x:number",
         "−1, 0 or 1.",
         types::plain,
         Steps::yes,
         {[](Values x) { return x[0] > 0   ? 1.0
                                : x[0] < 0 ? -1.0
                                           : 0.0; }, sign_of}},
        {"sqrt",
         "Arithmetic",
         "x:number",
         "Square root; its unit is rooted too. Missing below zero.",
         rooted<2>,
         Steps::no,
         {[](Values x) { return x[0] < 0 ? missing : std::sqrt(x[0]); }, square_root}},
        {"cbrt",
         "Arithmetic",
         "x:number",
         "Cube root; its unit is rooted too.",
         rooted<3>,
         Steps::no,
         {[](Values x) { return std::cbrt(x[0]); }, cube_root}},
        {"exp",
         "Arithmetic",
         "x:plain",
         "e to the power of x.",
         types::plain,
         Steps::no,
         {[](Values x) { return std::exp(x[0]); }, exponential}},
        {"log",
         "Arithmetic",
         "x:plain",
         "Natural logarithm. Missing at and below zero.",
         types::plain,
         Steps::no,
         {[](Values x) { return x[0] <= 0 ? missing : std::log(x[0]); }, natural_log}},
        {"log10",
         "Arithmetic",
         "x:plain",
         "Logarithm to the base of 10.",
         types::plain,
         Steps::no,
         {[](Values x) { return x[0] <= 0 ? missing : std::log10(x[0]); }, decimal_log}},
        {"log2",
         "Arithmetic",
         "x:plain",
         "Logarithm to the base of 2.",
         types::plain,
         Steps::no,
         {[](Values x) { return x[0] <= 0 ? missing : std::log2(x[0]); }, binary_log}},
        {"hypot",
         "Arithmetic",
         "a:number b:number",
         "sqrt(a² + b²).",
         combined_types,
         Steps::no,
         {[](Values x) { return std::sqrt(x[0] * x[0] + x[1] * x[1]); }, hypotenuse}},
        {"mod",
         "Arithmetic",
         "a:number b:number",
         "Remainder of a / b, with the sign of b.",
         combined_types,
         Steps::as_arguments,
         {[](Values x) { return x[1] == 0 ? missing : x[0] - x[1] * std::floor(x[0] / x[1]); }, remainder_of}},
        {"floor",
         "Arithmetic",
         "x:plain",
         "Next whole number below. Say in which unit: floor(speed / 1 km/h).",
         types::plain,
         Steps::yes,
         {[](Values x) { return std::floor(x[0]); }, round_down}},
        {"ceil",
         "Arithmetic",
         "x:plain",
         "Next whole number above.",
         types::plain,
         Steps::yes,
         {[](Values x) { return std::ceil(x[0]); }, round_up}},
        {"rint",
         "Arithmetic",
         "x:plain",
         "Nearest whole number; halves go to the even one.",
         types::plain,
         Steps::yes,
         {[](Values x) { return std::nearbyint(x[0]); }, round_near}},
        {"trunc",
         "Arithmetic",
         "x:plain",
         "Whole part, towards zero.",
         types::plain,
         Steps::yes,
         {[](Values x) { return std::trunc(x[0]); }, whole_part}},
        {"minimum",
         "Arithmetic",
         "a:number b:number*",
         "The smaller of its arguments, sample by sample.",
         types::all_alike,
         Steps::as_arguments,
         {[](Values x) { return *std::min_element(x.begin(), x.end()); }, lower}},
        {"maximum",
         "Arithmetic",
         "a:number b:number*",
         "The larger of its arguments, sample by sample.",
         types::all_alike,
         Steps::as_arguments,
         {[](Values x) { return *std::max_element(x.begin(), x.end()); }, higher}},
        {"clip",
         "Arithmetic",
         "x:number low:number high:number",
         "x, held between low and high.",
         types::all_alike,
         Steps::as_arguments,
         {clipped, one_by_one<clipped, 3>}},
        {"sin",
         "Angles",
         "angle:number",
         "Sine of an angle (a plain number counts as radians).",
         of_angle,
         Steps::no,
         {[](Values x) { return std::sin(x[0]); }, sine}},
        {"cos",
         "Angles",
         "angle:number",
         "Cosine of an angle.",
         of_angle,
         Steps::no,
         {[](Values x) { return std::cos(x[0]); }, cosine}},
        {"tan",
         "Angles",
         "angle:number",
         "Tangent of an angle.",
         of_angle,
         Steps::no,
         {[](Values x) { return std::tan(x[0]); }, tangent}},
        {"arcsin",
         "Angles",
         "x:plain",
         "The angle whose sine is x; missing outside −1 … 1.",
         types::angle,
         Steps::no,
         {[](Values x) { return std::abs(x[0]) > 1 ? missing : std::asin(x[0]); }, arc_sine}},
        {"arccos",
         "Angles",
         "x:plain",
         "The angle whose cosine is x; missing outside −1 … 1.",
         types::angle,
         Steps::no,
         {[](Values x) { return std::abs(x[0]) > 1 ? missing : std::acos(x[0]); }, arc_cosine}},
        {"arctan",
         "Angles",
         "x:plain",
         "The angle whose tangent is x.",
         types::angle,
         Steps::no,
         {[](Values x) { return std::atan(x[0]); }, arc_tangent}},
        {"arctan2",
         "Angles",
         "y:number x:number",
         "The angle of the direction (x, y).",
         of_two_sides,
         Steps::no,
         {[](Values x) { return std::atan2(x[0], x[1]); }, arc_tangent_2}},
        {.name = "where",
         .group = "Choice",
         .parameters = "condition:condition a:any b:any",
         .help = "a where the condition holds, b elsewhere; the same as: a if condition else b.",
         .type = chosen,
         .pointwise = {[](Values x) { return std::isnan(x[0]) ? missing
                                             : x[0] != 0      ? x[1]
                                                              : x[2]; }, nullptr, true},
         .is_choice = true},
        {.name = "first_of",
         .group = "Choice",
         .parameters = "a:any b:any*",
         .help = "The first of its arguments that this run has: names the preferred source first. For channels and for "
                 "constants of the car sheet with a value to fall back on.",
         .pointwise = {[](Values x) { return x[0]; }, nullptr, true},
         .takes_first = true},
        {"coalesce",
         "Choice",
         "a:any b:any*",
         "At each sample the first argument that is not missing there.",
         types::all_alike,
         Steps::as_arguments,
         {first_there, replace_missing, true}},
        {"isnan",
         "Choice",
         "x:any",
         "True where x is missing.",
         types::condition,
         Steps::no,
         {[](Values x) { return std::isnan(x[0]) ? 1.0 : 0.0; }, is_missing, true}},
        {"nan_to_num",
         "Choice",
         "x:number value:constant?",
         "x, with missing samples replaced (by 0).",
         types::all_alike,
         Steps::as_arguments,
         {[](Values x) { return std::isnan(x[0]) ? x[1] : x[0]; }, replace_missing, true}},
        {"number",
         "Choice",
         "condition:condition",
         "1 where the condition holds, 0 elsewhere.",
         types::plain,
         Steps::yes,
         {[](Values x) { return x[0]; }, copy}},
        {"bitwise_and",
         "Bits",
         "a:plain b:plain",
         "Bits set in both whole numbers (exact to 24 bits).",
         types::plain,
         Steps::yes,
         {both_bits, one_by_one<both_bits, 2>}},
        {"bitwise_or",
         "Bits",
         "a:plain b:plain",
         "Bits set in either.",
         types::plain,
         Steps::yes,
         {either_bit, one_by_one<either_bit, 2>}},
        {"bitwise_xor",
         "Bits",
         "a:plain b:plain",
         "Bits set in one of the two only.",
         types::plain,
         Steps::yes,
         {one_bit, one_by_one<one_bit, 2>}},
        {"left_shift",
         "Bits",
         "a:plain count:count",
         "Bits moved up by count places (0 … 23).",
         shifted,
         Steps::yes,
         {moved_up, one_by_one<moved_up, 2>}},
        {"right_shift",
         "Bits",
         "a:plain count:count",
         "Bits moved down by count places (0 … 23).",
         shifted,
         Steps::yes,
         {moved_down, one_by_one<moved_down, 2>}},
        {"bit",
         "Bits",
         "a:plain number:count",
         "True where this bit is set; 0 is the lowest.",
         tested_bit,
         Steps::no,
         {bit_set, one_by_one<bit_set, 2>}},
        {"interp",
         "Tables",
         "x:number xs:list ys:list",
         "Table with straight lines between its points; outside them the first or last value. xs must rise.",
         tabled,
         Steps::no,
         {},
         {line_table}},
        {"pchip",
         "Tables",
         "x:number xs:list ys:list",
         "Table with a smooth curve by pieces that never overshoots its points (Fritsch and Butland 1984).",
         tabled,
         Steps::no,
         {},
         {pchip_at, pchip_slopes}},
        {"polyval",
         "Tables",
         "x:plain coefficients:list",
         "Polynomial; the highest power comes first.",
         polynomial,
         Steps::no,
         {},
         {horner}},
    };
    return rows;
}

}  // namespace rendak::formula
