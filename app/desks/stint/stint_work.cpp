#include "app/desks/stint/stint_work.h"

#include <algorithm>

#include "app/text/sentences.h"

namespace rendak::app {
namespace {

RunInTable in_table(const RunRow& row, const QString& title, int slot) {
    return {row.id, slot, title, QString::fromStdString(row.driver), QString::fromStdString(row.session)};
}

}  // namespace

std::vector<StintRun> stint_runs(const ComparedLaps& laps) {
    const auto among = runs_of(laps);
    std::vector<StintRun> out;
    for (const auto& run : among) {
        const auto first = std::find_if(laps.laps.begin(), laps.laps.end(),
                                        [&](const ComparedLap& it) { return it.run->row.id == run->row.id; });
        out.push_back({run, static_cast<int>(first - laps.laps.begin()), run_title(run->row, among)});
    }
    return out;
}

std::vector<RunInTable> runs_in_table(const ComparedLaps& laps) {
    std::vector<RunInTable> out;
    for (const StintRun& it : stint_runs(laps)) out.push_back(in_table(it.run->row, it.title, it.slot));
    return out;
}

Result<TableOfLaps> table_of_laps(const std::filesystem::path& folder, const std::vector<LapColumn>& columns,
                                  const std::vector<RunInTable>& runs, const std::string& event,
                                  const JobContext& job) {
    const auto library = Library::open(folder, Library::Open::existing);
    if (!library) return pass_on(library.error());
    TableOfLaps out;
    out.runs = runs;
    if (!event.empty()) {
        const auto rows = (*library)->runs();
        if (!rows) return pass_on(rows.error());
        for (const RunRow& row : *rows) {
            const bool on_tray =
                std::any_of(runs.begin(), runs.end(), [&](const RunInTable& it) { return it.id == row.id; });
            if (row.event == event && !on_tray) out.runs.push_back(in_table(row, QString::fromStdString(row.name), -1));
        }
    }
    std::vector<RunId> ids;
    for (const RunInTable& it : out.runs) ids.push_back(it.id);
    auto table = kept_lap_table(**library, ids, columns, job);
    if (!table) return pass_on(table.error());
    out.table = std::make_shared<const rendak::LapTable>(std::move(*table));
    return out;
}

Result<WatchOfRuns> watch_of(const std::filesystem::path& folder, const ComparedLaps& laps, const JobContext& job) {
    const auto library = Library::open(folder, Library::Open::existing);
    if (!library) return pass_on(library.error());
    const auto book = watch_book(**library);
    if (!book) return pass_on(book.error());
    WatchOfRuns out;
    for (const StintRun& run : stint_runs(laps)) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        const auto kept = kept_watch(**library, run.run->row.id);
        if (!kept) return pass_on(kept.error());
        const bool old = std::any_of(kept->begin(), kept->end(), [](const KeptWatch& it) { return it.stale; });
        if (old || kept->size() < book->in_force().size()) out.stale.push_back(run.run->row.id);
        for (const KeptWatch& it : *kept) {
            WatchShown shown{run.run, run.slot, run.title, it, {}};
            if (!it.told.events.empty()) {
                const auto trend = watch_trend(**library, it.rule.name, run.run->row.car);
                if (trend) shown.trend = QString::fromStdString(trend->text);
            }
            out.shown.push_back(std::move(shown));
        }
    }
    return out;
}

}  // namespace rendak::app
