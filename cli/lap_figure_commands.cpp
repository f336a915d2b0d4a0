#include "cli/lap_figure_commands.h"

#include <algorithm>
#include <cmath>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/base/text.h"
#include "core/intake/column_sets.h"
#include "core/recording/csv_writer.h"

namespace rendak::cli {
namespace {

const char* way_name(Better way) {
    return way == Better::more ? "more" : way == Better::less ? "less" : "neither";
}

/// What people asked for, then those of sets; each column once.
struct Wishes {
    std::vector<LapColumn> columns;
    std::size_t asked = 0;  ///< so many of them by name: they stay where no run has them

    void add(std::vector<LapColumn> more) {
        for (LapColumn& column : more) {
            const bool known = std::any_of(columns.begin(), columns.end(),
                                           [&](const LapColumn& it) { return it.text() == column.text(); });
            if (!known) columns.push_back(std::move(column));
        }
    }
};

Result<Wishes> wishes_of(const Library& library, const std::vector<std::string>& columns,
                         const std::vector<std::string>& sets) {
    Wishes out;
    for (const std::string& text : columns) {
        auto read = lap_columns(text);
        if (!read) return pass_on(read.error());
        out.add(std::move(*read));
    }
    out.asked = out.columns.size();
    for (const std::string& name : sets) {
        auto set = columns_of_set(library, name);
        if (!set) return pass_on(set.error());
        out.add(std::move(*set));
    }
    return out;
}

std::string in_csv(double value) {
    if (!std::isfinite(value)) return "";
    return Json(value).dump();
}

int print_csv(const LapTable& table) {
    std::string out = "run,lap,kind,counts";
    for (const auto& it : table.columns)
        out += "," + csv_cell(it.column.text() + (it.unit.empty() ? "" : " [" + it.unit + "]"));
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
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto wishes = wishes_of(**library, columns, sets);
    if (!wishes) return report(wishes.error());
    std::vector<RunId> ids;
    for (const std::int64_t id : runs) ids.push_back({id});
    auto table = kept_lap_table(**library, ids, wishes->columns, spoken_progress("lap figures"));
    if (!table) return report(table.error());
    const auto by_name = [&](const LapColumn& column) {
        return std::any_of(wishes->columns.begin(),
                           wishes->columns.begin() + static_cast<std::ptrdiff_t>(wishes->asked),
                           [&](const LapColumn& it) { return it.channel == column.channel; });
    };
    std::vector<std::size_t> without;
    std::vector<std::string> missing;
    for (std::size_t c = 0; c < table->columns.size(); ++c) {
        if (table->columns[c].missing.empty() || by_name(table->columns[c].column)) continue;
        without.push_back(c);
        missing.push_back(table->columns[c].column.text());
    }
    drop_columns(*table, without);
    std::string said;
    for (const std::string& it : missing) said += (said.empty() ? "" : ", ") + it;
    if (!said.empty()) say("No run has: " + said + ".");
    return csv ? print_csv(*table) : print(json_of(*table, missing));
}

}  // namespace rendak::cli
