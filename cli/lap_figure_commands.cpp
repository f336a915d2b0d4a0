#include "cli/lap_figure_commands.h"

#include <cmath>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/base/text.h"
#include "core/intake/lap_table.h"

namespace rendak::cli {
namespace {

const char* way_name(BetterWay way) {
    return way == BetterWay::more ? "more" : way == BetterWay::less ? "less" : "neither";
}

/// What people asked for, and of the ready sets what one of the runs has.
struct Wishes {
    std::vector<LapColumn> columns;
    std::size_t by_hand = 0;  ///< of them, the first ones
};

Result<Wishes> wishes_of(const std::vector<std::string>& columns, const std::vector<std::string>& sets) {
    Wishes out;
    const auto add = [&](std::string_view text) -> Result<void> {
        auto read = lap_columns(text);
        if (!read) return pass_on(read.error());
        for (LapColumn& column : *read) {
            const bool known = std::any_of(out.columns.begin(), out.columns.end(),
                                           [&](const LapColumn& it) { return it.text() == column.text(); });
            if (!known) out.columns.push_back(std::move(column));
        }
        return {};
    };
    for (const std::string& text : columns) {
        if (auto done = add(text); !done) return pass_on(done.error());
    }
    out.by_hand = out.columns.size();
    for (const std::string& name : sets) {
        std::string known;
        bool found = false;
        for (const ReadyColumns& set : ready_columns()) {
            known += (known.empty() ? "" : ", ") + std::string(set.name);
            if (name != set.name) continue;
            found = true;
            if (auto done = add(set.columns); !done) return pass_on(done.error());
        }
        if (!found)
            return fail(ErrorCode::not_found, "There is no set of columns " + name + ". There are: " + known + ".");
    }
    return out;
}

std::string in_csv(const std::string& text) {
    if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

std::string in_csv(double value) {
    if (!std::isfinite(value)) return "";
    return Json(value).dump();
}

int print_csv(const LapTable& table) {
    std::string out = "run,lap,kind,counts";
    for (const auto& it : table.columns)
        out += "," + in_csv(it.column.text() + (it.unit.empty() ? "" : " [" + it.unit + "]"));
    out += "\n";
    for (const LapTable::Row& row : table.rows) {
        out += std::to_string(row.ref.run.value) + "," + std::to_string(row.ref.lap) + "," + lap_kind_name(row.kind) +
               "," + (row.counts ? "1" : "0");
        for (const LapFigure& figure : row.figures) out += "," + in_csv(figure.value);
        out += "\n";
    }
    std::cout << out << std::flush;
    return std::cout.good() ? done : failed;
}

Json json_of(const LapTable& table, const std::vector<std::string>& missing) {
    Json out{{"columns", Json::array()}, {"laps", Json::array()}, {"trends", Json::array()}, {"missing", missing}};
    const auto lap_of = [&](std::optional<std::size_t> row) {
        if (!row) return Json(nullptr);
        return Json{{"run", table.rows[*row].ref.run.value}, {"lap", table.rows[*row].ref.lap}};
    };
    out["best_lap"] = lap_of(table.best_lap);
    for (const LapTable::Column& it : table.columns)
        out["columns"].push_back({{"column", it.column.text()},
                                  {"unit", it.unit},
                                  {"better", way_name(it.better)},
                                  {"best", lap_of(it.best)},
                                  {"mean", or_null(it.mean)},
                                  {"laps", it.laps},
                                  {"why", it.missing}});
    for (const LapTable::Row& row : table.rows) {
        Json values = Json::array(), moments = Json::array();
        for (const LapFigure& figure : row.figures) {
            values.push_back(or_null(figure.value));
            moments.push_back(or_null(figure.at_s));
        }
        out["laps"].push_back({{"run", row.ref.run.value},
                               {"lap", row.ref.lap},
                               {"kind", lap_kind_name(row.kind)},
                               {"counts", row.counts},
                               {"why", row.why},
                               {"values", std::move(values)},
                               {"at_s", std::move(moments)}});
    }
    for (const LapTable::Trend& it : table.trends) {
        const LapTable::Column& column = table.columns[it.column];
        out["trends"].push_back({{"run", it.run.value},
                                 {"column", column.column.text()},
                                 {"laps", it.line.laps},
                                 {"per_lap", it.line.per_lap},
                                 {"likely", {it.line.likely.begin, it.line.likely.end}},
                                 {"scatter", it.line.scatter},
                                 {"text", trend_words(it.line, 1, column.unit)}});
    }
    return out;
}

}  // namespace

int print_lap_figures(const std::string& folder, const std::vector<std::int64_t>& runs,
                      const std::vector<std::string>& columns, const std::vector<std::string>& sets, bool csv) {
    const auto wishes = wishes_of(columns, sets);
    if (!wishes) return report(wishes.error());
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    std::vector<std::shared_ptr<const RunData>> opened;
    for (const std::int64_t id : runs) {
        auto run = load_checked(**library, {id});
        if (!run) return report(run.error());
        opened.push_back(std::move(*run));
    }
    auto table = lap_table(opened, wishes->columns, spoken_progress("lap figures"));
    if (!table) return report(table.error());
    // Of a ready set what no run has is said once and has no column.
    std::vector<std::string> missing;
    for (std::size_t c = table->columns.size(); c-- > 0;) {
        const LapTable::Column& it = table->columns[c];
        const bool asked =
            std::any_of(wishes->columns.begin(), wishes->columns.begin() + static_cast<std::ptrdiff_t>(wishes->by_hand),
                        [&](const LapColumn& wish) { return wish.channel == it.column.channel; });
        if (it.missing.empty() || asked) continue;
        missing.insert(missing.begin(), it.column.text());
        table->columns.erase(table->columns.begin() + static_cast<std::ptrdiff_t>(c));
        for (LapTable::Row& row : table->rows) row.figures.erase(row.figures.begin() + static_cast<std::ptrdiff_t>(c));
        for (LapTable::Trend& trend : table->trends) trend.column -= trend.column > c ? 1 : 0;
    }
    if (!missing.empty()) {
        std::string names;
        for (const std::string& it : missing) names += (names.empty() ? "" : ", ") + it;
        say("No run has: " + names + ".");
    }
    return csv ? print_csv(*table) : print(json_of(*table, missing));
}

}  // namespace rendak::cli
