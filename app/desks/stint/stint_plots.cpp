#include "app/desks/stint/stint_plots.h"

#include <QCoreApplication>

namespace rendak::app {
namespace {

/// A value of each lap of a run, by lap of the stint; without a line.
OverLapsSeries series_of(const StintRun& run, const std::vector<double>& values) {
    const Stint& stint = *run.stint;
    OverLapsSeries out;
    out.slot = run.slot;
    out.values = values;
    for (std::size_t k = 0; k < stint.laps.size(); ++k) {
        out.laps.push_back({run.run->row.id, stint.laps[k]});
        out.x.push_back(stint.lap_of_stint(k));
        out.tells.push_back(stint.tells(k) ? 1 : 0);
    }
    return out;
}

}  // namespace

OverLapsPlot pace_plot(const StintData& stints) {
    OverLapsPlot plot;
    plot.title = QObject::tr("Pace over the stint");
    plot.how = seconds_shown(plot.title);
    plot.is_time = true;
    const bool fuel = stints.a().stint && stints.a().stint->s_per_litre;
    plot.hint =
        fuel ? QObject::tr("fuel taken out · hollow: not counted") : QObject::tr("fuel left in · hollow: not counted");
    for (const StintRun& run : stints.runs) {
        if (!run.stint) continue;
        OverLapsSeries series = series_of(run, run.stint->steady_s);
        series.line = run.stint->fall_off;
        series.line_from = run.stint->laps.front() - 1;
        if (run.stint->breaks) series.breaks_at = run.stint->breaks->from_lap - run.stint->laps.front() + 1;
        plot.series.push_back(std::move(series));
    }
    if (plot.series.empty()) plot.message = stints.a().problem;
    return plot;
}

OverLapsPlot plot_of(const StintData& stints, const StintFigure& figure) {
    OverLapsPlot plot;
    plot.title = QString::fromStdString(figure.title);
    plot.hint = QObject::tr("by lap of the stint · hollow: not counted");
    plot.is_time = figure.shown_as.empty();
    plot.how = shown_of(figure);
    for (const auto& [run, values] : {std::pair{&stints.a(), &figure.laps_a}, {stints.b(), &figure.laps_b}}) {
        OverLapsSeries series = series_of(*run, *values);
        std::vector<double> laps, telling;
        for (std::size_t k = 0; k < series.x.size(); ++k) {
            if (series.tells[k] == 0) continue;
            laps.push_back(series.x[k]);
            telling.push_back(series.values[k]);
        }
        series.line = lap_trend(laps, telling);
        plot.series.push_back(std::move(series));
    }
    return plot;
}

OverLapsPlot plot_of(const LapFigureModel& figures, std::size_t column) {
    const FigureLook& look = figures.look(column);
    OverLapsPlot plot;
    plot.title = look.label;
    plot.how = look.how;
    plot.is_time = look.is_time;
    plot.hint = QObject::tr("over the laps · hollow: not counted");
    plot.message = QString::fromStdString(figures.table()->columns[column].missing);
    for (const RunInTable& run : figures.runs()) {
        if (run.slot < 0) continue;
        OverLapsSeries series;
        series.slot = run.slot;
        for (const rendak::LapTable::Row& row : figures.table()->rows) {
            if (row.ref.run != run.id) continue;
            series.laps.push_back(row.ref);
            series.x.push_back(row.ref.lap);
            series.values.push_back(row.figures[column].value);
            series.tells.push_back(row.counts ? 1 : 0);
        }
        for (const rendak::LapTable::Trend& it : figures.table()->trends) {
            if (it.run == run.id && it.column == column) series.line = it.line;
        }
        plot.series.push_back(std::move(series));
    }
    return plot;
}

}  // namespace rendak::app
