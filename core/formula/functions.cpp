#include "core/formula/functions.h"

#include <algorithm>
#include <array>

namespace rendak::formula {
namespace {

Shape shape_of(std::string_view word) {
    constexpr std::array<std::string_view, 12> names{"number", "condition", "any",    "plain", "constant", "count",
                                                     "time",   "rate",      "length", "list",  "per",      "reset"};
    return static_cast<Shape>(std::find(names.begin(), names.end(), word) - names.begin());
}

std::vector<Function> built() {
    std::vector<Function> out;
    std::vector<const FunctionRow*> rows;
    for (const auto table : {pointwise_functions(), time_functions(), lap_functions()}) {
        for (const FunctionRow& row : table) rows.push_back(&row);
    }
    for (const FunctionRow* each : rows) {
        const FunctionRow& row = *each;
        Function function{std::string(row.name), std::string(row.group), std::string(row.help), {}, &row};
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
    {"quickest_offset", "m",
     "How far left of the track's line the line runs on which a point with the run's own limits is quickest, where the "
     "edges are known. Takes some seconds a run."},
    {"driver_on_brake", "", "On the brake: the pedal or the pressure above its zero, else slowing down.", true, true},
    {"driver_on_throttle", "", "On the throttle, else gaining speed.", true, true},
    {"driver_full_throttle", "", "At the end of the throttle's travel.", true, true},
    {"driver_cornering", "", "More lateral acceleration than 0.3 g (car.cornering_from).", true, true},
    {"driver_coasting", "", "None of brake, throttle and cornering, above 20 km/h.", true, true},
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
