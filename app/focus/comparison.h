#pragma once

#include <QObject>
#include <map>
#include <memory>
#include <set>

#include "app/focus/focus.h"
#include "app/jobs/jobs.h"
#include "core/analysis/corner_events.h"
#include "core/analysis/pedals.h"
#include "core/analysis/where.h"
#include "core/intake/run_data.h"

namespace rendak::app {

/// One picked lap with what is derived from it and the baseline.
struct ComparedLap {
    std::shared_ptr<const RunData> run;
    PreparedLap lap;
    GapCurve gap;                             ///< to the baseline; all zero for the baseline itself
    std::vector<ZoneDifference> differences;  ///< empty for the baseline
    std::vector<CornerEvents> events;
};

/// The picked laps, aligned and ready to draw. Plain and immutable once published.
struct ComparedLaps {
    std::vector<LapRef> wanted;  ///< the picks this was made from
    std::vector<ComparedLap> laps;
    std::vector<PhaseSpan> phases;  ///< of the baseline
    std::vector<QString> problems;  ///< laps that could not be compared, and why

    [[nodiscard]] bool empty() const { return laps.empty(); }
    [[nodiscard]] const ComparedLap& baseline() const { return laps.front(); }
    [[nodiscard]] const Track& track() const { return *laps.front().lap.track; }
    [[nodiscard]] double length_m() const { return track().length_m; }
};

/// Follows the focus: whenever the picked laps change it opens and aligns them on a worker.
class Comparison : public QObject {
    Q_OBJECT
  public:
    Comparison(std::filesystem::path library_folder, Focus& focus, Jobs& jobs, QObject* parent = nullptr);

    [[nodiscard]] const ComparedLaps& laps() const { return *laps_; }
    /// The range in force: the focus's, or the whole lap.
    [[nodiscard]] Interval range_m() const;
    // What the traces show: metres of track on the distance and time axes, seconds since A's line on the run axis.
    [[nodiscard]] Axis axis() const { return focus_.state().axis; }
    [[nodiscard]] Interval view() const;
    [[nodiscard]] Interval view_limits() const;
    void set_view(Interval view);
    [[nodiscard]] double cursor_in_view() const;
    /// On the run axis the place on track follows while the moment lies in A's lap.
    void set_cursor_in_view(double at);
    [[nodiscard]] double x_of_view(double at) const { return axis() == Axis::run ? at : x_of(0, at); }
    [[nodiscard]] double view_of_x(double x) const { return axis() == Axis::run ? x : distance_of(0, x); }
    /// Recording time of a slot at the cursor.
    [[nodiscard]] double cursor_time_s(int slot) const;

    /// Whether any picked lap has a quantity logged, or there is a formula of that name.
    [[nodiscard]] bool offers(const std::string& quantity) const;
    /// Whether a quantity can be read without waiting. A formula that is not computed yet is computed on a worker;
    /// changed() tells when it is there.
    [[nodiscard]] bool ready(const std::string& quantity) const;
    /// Its computation was cancelled; another choice of laps begins it anew.
    [[nodiscard]] bool was_cancelled(const std::string& quantity) const { return cancelled_.contains(quantity); }
    /// Why no picked lap has a quantity; empty when one has, or when it is still being computed.
    [[nodiscard]] QString why_not(const std::string& quantity) const;
    /// Formulas or constants changed: what depends on them is computed anew, nothing else.
    void reload_formulas();

    /// Curve of a quantity ("gap" included) of a slot, on the focus's axis; cached.
    [[nodiscard]] const Trace& trace(int slot, const std::string& quantity) const;
    /// Track distance <-> position on the x axis in force, for a slot.
    [[nodiscard]] double x_of(int slot, double distance_m) const;
    [[nodiscard]] double distance_of(int slot, double x) const;
    /// Value of a quantity of a slot at the cursor.
    [[nodiscard]] double value_at_cursor(int slot, const std::string& quantity) const;
    /// Where a slot's car is when the cursor stands on the baseline: same place, or on the time axis same moment.
    [[nodiscard]] double cursor_distance(int slot) const;
    /// Forgets opened runs (their laps or corrections changed) and compares again.
    void reload();
    [[nodiscard]] bool busy() const { return busy_; }

  Q_SIGNALS:
    void changed();

  private:
    void start();
    void forget_computed();
    std::filesystem::path folder_;
    Focus& focus_;
    Jobs& jobs_;
    std::shared_ptr<const ComparedLaps> laps_ = std::make_shared<ComparedLaps>();
    std::map<RunId, std::shared_ptr<const RunData>> opened_;
    mutable std::map<std::pair<int, std::string>, Trace> traces_;
    std::set<std::string> cancelled_;
    mutable std::set<std::string> computing_;  ///< formulas that workers are at
    int revision_ = 0;
    bool busy_ = false;
    bool sorted_ = false;  ///< the shown laps were put in order with the fastest first
};

}  // namespace rendak::app
