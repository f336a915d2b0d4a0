#include "core/intake/results.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/recording/cell_number.h"
#include "core/recording/cell_time.h"
#include "core/recording/table_shape.h"
#include "core/recording/table_text.h"

namespace rendak {
namespace {

/// The places of the columns that are wanted; -1: not there.
struct Columns {
    int time = -1, number = -1, car = -1, driver = -1;
};

int column_of(const std::vector<std::string_view>& cells, std::initializer_list<std::string_view> names) {
    for (const std::string_view name : names) {
        for (std::size_t c = 0; c < cells.size(); ++c) {
            if (folded(utf8_of(cells[c])) == name) return static_cast<int>(c);
        }
    }
    return -1;
}

Columns columns_of(const std::vector<std::string_view>& cells) {
    Columns out;
    out.time = column_of(cells, {"laptime", "laptimes", "rundenzeit", "tempsautour", "tiempovuelta", "lapduration",
                                 "time", "zeit", "temps"});
    out.number = column_of(cells, {"lap", "lapno", "lapnumber", "lapnr", "laps", "runde", "tour", "vuelta", "giro"});
    out.car = column_of(
        cells, {"carno", "carnumber", "startnumber", "startno", "startnr", "startnummer", "number", "no", "nr", "car"});
    out.driver = column_of(cells, {"driver", "drivername", "name", "fahrer", "pilote", "pilota", "piloto"});
    return out;
}

double time_of(std::string_view cell) {
    cell = bare_cell(cell);
    const char sign = cell.find(',') != std::string_view::npos && cell.find('.') == std::string_view::npos ? ',' : '.';
    if (const auto time = time_cell(cell, sign); time && time->clock_s && !time->date_s) return *time->clock_s;
    const auto number = loose_number(cell, sign);
    return number && (number->rest.empty() || number->rest == "s") ? number->value : std::nan("");
}

std::string text_at(const std::vector<std::string_view>& cells, int column) {
    return column < 0 || static_cast<std::size_t>(column) >= cells.size()
               ? std::string()
               : utf8_of(cells[static_cast<std::size_t>(column)]);
}

/// Costs of leaving a lap without a partner, and beyond which difference two laps are not the same one.
constexpr double gap_cost_s = 1.0, most_apart_s = 1.9;

}  // namespace

Result<std::vector<ResultLap>> read_results(const std::filesystem::path& file) {
    const auto opened = TableText::open(file);
    if (!opened) return pass_on(opened.error());
    const std::string_view text = opened->text();
    char delimiter = ';';
    std::size_t most = 0;
    const auto head = text.substr(0, 4096);
    for (const char one : {';', '\t', ',', '|'}) {
        const auto count = static_cast<std::size_t>(std::count(head.begin(), head.end(), one));
        if (count > most) {
            most = count;
            delimiter = one;
        }
    }
    std::vector<ResultLap> out;
    std::optional<Columns> columns;
    std::size_t line = 0;
    for (std::size_t at = text.starts_with("\xEF\xBB\xBF") ? 3 : 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        const auto cells = split_cells(text.substr(at, end - at), delimiter);
        at = end + 1;
        ++line;
        if (!columns) {
            const Columns found = columns_of(cells);
            if (found.time >= 0) columns = found;
            continue;
        }
        const auto time = static_cast<std::size_t>(columns->time);
        if (time >= cells.size() || is_missing(cells[time])) continue;
        const double seconds = time_of(cells[time]);
        if (!(seconds > 1) || seconds > 86'400)
            return fail(ErrorCode::bad_input,
                        "\"" + utf8_of(cells[time]) + "\" in line " + std::to_string(line) +
                            " is no lap time. Write it as 1:24.318 or in seconds; nothing was taken.",
                        file.string() + ":" + std::to_string(line));
        ResultLap lap{text_at(cells, columns->car), text_at(cells, columns->driver), {0, seconds}};
        const auto number = loose_number(text_at(cells, columns->number), '.');
        lap.lap.number = number && std::abs(number->value) < 1e6 ? static_cast<int>(number->value) : 0;
        out.push_back(std::move(lap));
        if (out.size() > 1'000'000)
            return fail(ErrorCode::bad_input, "The table has more than a million laps.", file.string());
    }
    if (!columns)
        return fail(ErrorCode::bad_input,
                    "No column of lap times was found. The table needs a row of names with \"Lap time\" among them.",
                    file.string());
    if (out.empty()) return fail(ErrorCode::bad_input, "The table holds no lap times.", file.string());
    return out;
}

Result<std::vector<OfficialLap>> laps_of_car(const std::vector<ResultLap>& results, const std::string& car,
                                             const std::string& driver, const RunFacts& facts) {
    std::set<std::string> cars, drivers;
    for (const ResultLap& result : results) {
        cars.insert(result.car);
        drivers.insert(result.driver);
    }
    const auto like = [](const std::string& a, const std::string& b) { return folded(a) == folded(b); };
    const auto known = [&](const std::set<std::string>& among, const std::string& said, const std::string& fact) {
        if (!said.empty()) return said;
        for (const std::string& one : among) {
            if (!one.empty() && like(one, fact)) return one;
        }
        return among.size() == 1 ? *among.begin() : std::string();
    };
    std::string wanted_car = known(cars, car, facts.car), wanted_driver = known(drivers, driver, facts.driver);
    // One of the two is enough, and what is said goes before what the facts say.
    if (!car.empty() && driver.empty()) wanted_driver.clear();
    if (!driver.empty() && car.empty()) wanted_car.clear();
    if (wanted_car.empty() && wanted_driver.empty() && (cars.size() > 1 || drivers.size() > 1)) {
        std::string choice;
        for (const std::string& one : cars.size() > 1 ? cars : drivers) choice += (choice.empty() ? "" : ", ") + one;
        return fail(ErrorCode::needs_answer,
                    "The results are of several cars (" + choice + "). Say which one this is.");
    }
    std::vector<OfficialLap> out;
    for (const ResultLap& result : results) {
        if (!wanted_car.empty() && !like(result.car, wanted_car)) continue;
        if (!wanted_driver.empty() && !like(result.driver, wanted_driver)) continue;
        out.push_back(result.lap);
    }
    if (out.empty())
        return fail(ErrorCode::not_found, "The results have no lap of \"" + (car.empty() ? driver : car) + "\".");
    const bool numbered = std::all_of(out.begin(), out.end(), [](const OfficialLap& lap) { return lap.number > 0; });
    std::set<int> numbers;
    for (const OfficialLap& lap : out) numbers.insert(lap.number);
    if (numbered && numbers.size() == out.size())
        std::sort(out.begin(), out.end(),
                  [](const OfficialLap& a, const OfficialLap& b) { return a.number < b.number; });
    else
        for (std::size_t i = 0; i < out.size(); ++i) out[i].number = static_cast<int>(i) + 1;
    return out;
}

ResultsAgreement hold_against(const std::vector<OfficialLap>& official, const std::vector<Lap>& all) {
    std::vector<Lap> laps;
    for (const Lap& lap : all) {
        if (lap.complete()) laps.push_back(lap);
    }
    const std::size_t n = official.size(), m = laps.size();
    // The cheapest way to walk through both lists: a pair costs its difference, a lap alone a second. Ends are free: a
    // recording may begin later and end earlier than the session.
    std::vector<double> cost((n + 1) * (m + 1), 0);
    const auto at = [&](std::size_t i, std::size_t j) -> double& { return cost[i * (m + 1) + j]; };
    const auto apart = [&](std::size_t i, std::size_t j) { return std::abs(laps[j].time_s() - official[i].time_s); };
    for (std::size_t i = 1; i <= n; ++i) {
        for (std::size_t j = 1; j <= m; ++j) {
            double best = std::min(at(i - 1, j) + (j == m ? 0 : gap_cost_s), at(i, j - 1) + (i == n ? 0 : gap_cost_s));
            // A pair earns something: else leaving all laps alone at the ends would be cheapest.
            if (apart(i - 1, j - 1) < most_apart_s) best = std::min(best, at(i - 1, j - 1) + apart(i - 1, j - 1) - 2);
            at(i, j) = best;
        }
    }
    ResultsAgreement out;
    for (std::size_t i = n, j = m; i > 0 || j > 0;) {
        if (i > 0 && j > 0 && apart(i - 1, j - 1) < most_apart_s &&
            at(i, j) == at(i - 1, j - 1) + apart(i - 1, j - 1) - 2) {
            out.pairs.push_back({official[i - 1], laps[j - 1].number, laps[j - 1].time_s()});
            --i;
            --j;
        } else if (i > 0 && (j == 0 || at(i, j) == at(i - 1, j) + (j == m ? 0 : gap_cost_s))) {
            out.pairs.push_back({official[--i], std::nullopt, 0});
        } else {
            --j;
            out.pairs.push_back({std::nullopt, laps[j].number, laps[j].time_s()});
        }
    }
    std::reverse(out.pairs.begin(), out.pairs.end());
    std::vector<double> differences;
    for (const auto& pair : out.pairs) {
        if (pair.official && pair.lap) differences.push_back(pair.difference_s());
        out.missing += pair.official && !pair.lap;
        out.extra += !pair.official && pair.lap;
    }
    out.matched = static_cast<int>(differences.size());
    if (out.matched > 0) {
        out.offset_s = median_of(differences);
        out.spread_s = robust_sd(differences, out.offset_s);
        out.sentences.push_back(counted(static_cast<std::size_t>(out.matched), "lap", "laps") +
                                " of the results found here; the cut laps are " + fixed(std::abs(out.offset_s), 3) +
                                " s " + (out.offset_s < 0 ? "shorter" : "longer") + " as a rule, single laps within " +
                                fixed(out.spread_s, 3) + " s of that.");
    } else {
        out.sentences.emplace_back("None of the laps is among the results: is it the right car and session?");
    }
    if (out.matched > 2 && std::abs(out.offset_s) > 3 * std::max(out.spread_s, 0.002))
        out.sentences.emplace_back("The difference is the same in all laps: the two clocks do not run alike.");
    else if (out.matched > 2 && out.spread_s > 0.02)
        out.sentences.emplace_back(
            "Single laps differ both ways: the line of the timing lies elsewhere, or laps are cut badly.");
    for (std::size_t k = 0; k < out.pairs.size(); ++k) {
        const auto& pair = out.pairs[k];
        if (!pair.official || pair.lap) continue;
        std::string what = "Lap " + std::to_string(pair.official->number) + " of the results (" +
                           lap_time_text(pair.official->time_s) + ") is missing here";
        // Two official laps that were cut as one stand beside each other.
        for (std::size_t other = k > 2 ? k - 2 : 0; other < std::min(out.pairs.size(), k + 3); ++other) {
            if (out.pairs[other].official || !out.pairs[other].lap) continue;
            for (const std::size_t next : {k + 1, k - 1}) {
                if (next >= out.pairs.size() || !out.pairs[next].official || out.pairs[next].lap) continue;
                const double both = pair.official->time_s + out.pairs[next].official->time_s;
                if (std::abs(both - out.pairs[other].cut_s) < 1)
                    what += ": it was cut as one with lap " + std::to_string(out.pairs[next].official->number) +
                            " (lap " + std::to_string(*out.pairs[other].lap) + " here)";
            }
        }
        out.sentences.push_back(what + ".");
    }
    return out;
}

}  // namespace rendak
