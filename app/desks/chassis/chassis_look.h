#pragma once

#include <QString>
#include <QStringList>
#include <filesystem>
#include <memory>
#include <optional>
#include <vector>

#include "app/desks/chassis/chassis_plot.h"
#include "app/desks/chassis/stretch_strip.h"
#include "core/base/job.h"
#include "core/chassis/stretch_spectra.h"
#include "core/intake/run_data.h"
#include "core/trials/planned_runs.h"
#include "core/trials/trial_book.h"

namespace rendak::app {

enum class ChassisPage { heights, dampers, spectrum, ladder, balance, pull, strikes, trial };

/// A run that is looked at, by its laps that count.
struct ChassisSide {
    std::shared_ptr<const RunData> run;
    int slot = 0;
    QString title;
};

/// What somebody chose on the desk.
struct ChassisChoice {
    ChassisPage page = ChassisPage::heights;
    std::optional<StretchKind> on;    ///< none: as proposed for the axle
    std::vector<Interval> own_m;      ///< parts of the track instead
    bool front = false, rear = true;  ///< axles
    WheelChoice wheels = WheelChoice::loaded;
    QString channel = QStringLiteral("tyre_load");
    double fast_mps = 0.05;
    Interval band_hz{1, 10};
    double segment_s = 1;
    QString line;                    ///< of the setup sheet, that a ladder steps; empty: the longest ladder
    std::optional<double> baseline;  ///< of the ladder; none: the lowest value
    QString aim;                     ///< of a trial
    bool operator==(const ChassisChoice&) const = default;
};

struct ChassisTable {
    struct Cell {
        enum class Mark { none, won, lost, mute };
        QString text;
        Mark mark = Mark::none;
    };
    QString title;
    QStringList heads;
    std::vector<std::vector<Cell>> rows;
    std::vector<std::optional<double>> at_m = {};  ///< place of a row on the track
    std::vector<QString> tips = {};
    std::vector<std::int64_t> trials = {};  ///< kept trials, by row
};

/// A page, worked out.
struct ChassisLook {
    ChassisChoice choice;
    QString headline, foot;
    std::vector<ChassisPlot> plots;    ///< at most two
    std::vector<ChassisTable> tables;  ///< at most two
    std::vector<Stretch> stretches;    ///< that it was judged on
    RoadShape road;                    ///< that they can be chosen on
    std::vector<PlannedRun> next;      ///< runs that are proposed
    QStringList lines;                 ///< of setup sheets that runs of the event step
    QString line;                      ///< the one that is shown
    std::vector<double> values;        ///< of it
    double baseline = 0;               ///< of them
    std::optional<KeptTrial> trial;    ///< that can be kept
};

/// Works a page out on a worker. The first side is A, the second is held against it; more are shown where a page shows
/// more than two. What cannot be told says so on the page.
[[nodiscard]] Result<std::shared_ptr<const ChassisLook>> chassis_look(const std::filesystem::path& folder,
                                                                      const std::vector<ChassisSide>& sides,
                                                                      const ChassisChoice& choice,
                                                                      const JobContext& job);

}  // namespace rendak::app
