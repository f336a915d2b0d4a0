#pragma once

#include <QObject>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <tuple>

#include "app/focus/focus.h"
#include "app/jobs/jobs.h"
#include "core/analysis/corner_events.h"
#include "core/analysis/lap_events.h"
#include "core/analysis/phases.h"
#include "core/analysis/stops.h"
#include "core/analysis/where.h"
#include "core/intake/run_data.h"
#include "core/laps/line_offset.h"

namespace rendak::app {

/// Drawn like channels, but of two laps: the gap, and how far the line lies beside A's.
[[nodiscard]] inline bool is_between_laps(std::string_view quantity) {
    return quantity == "gap" || quantity == "line_offset";
}

/// One picked lap with what is derived from it and the baseline.
struct ComparedLap {
    std::shared_ptr<const RunData> run;
    PreparedLap lap;
    GapCurve gap;                             ///< to the baseline; all zero for the baseline itself
    std::vector<ZoneDifference> differences;  ///< empty for the baseline
    std::vector<CornerEvents> events;
    std::vector<Stop> stops;             ///< of the lap's run
    LineOffset offset = {};              ///< to the baseline's line
    std::vector<LapEvent> moments = {};  ///< the corners' events and shifts, in the order of their places
};

/// The picked laps, aligned and ready to draw. Plain and immutable once published. When one of the picks is a whole run
/// or a lap without a track, all are laid over each other by time only: there are no places, gaps and differences.
struct ComparedLaps {
    std::vector<LapRef> wanted;  ///< the picks this was made from
    bool fastest_first = false;  ///< slot A was given to the fastest
    std::vector<ComparedLap> laps;
    std::vector<PhaseSpan> phases;     ///< of the baseline
    std::vector<QString> problems;     ///< laps that could not be compared, and why
    std::map<RunId, double> shifts_s;  ///< by which whole runs are moved to the right

    /// All picks are complete laps of one track.
    [[nodiscard]] bool on_track() const { return !laps.empty() && laps.front().lap.track != nullptr; }
    [[nodiscard]] bool empty() const { return laps.empty(); }
    [[nodiscard]] const ComparedLap& baseline() const { return laps.front(); }
    [[nodiscard]] const Track& track() const { return *laps.front().lap.track; }
    [[nodiscard]] double length_m() const { return track().length_m; }
};

/// Follows the focus: whenever the picked laps change it opens and aligns them on a worker, with the traces that its
/// views have asked for. Nothing is read or computed on the GUI thread: what is not there yet is not shown, and
/// changed() tells when it is.
class Comparison : public QObject {
    Q_OBJECT
  public:
    Comparison(std::filesystem::path library_folder, Focus& focus, Jobs& jobs, QObject* parent = nullptr);

    [[nodiscard]] const std::filesystem::path& library_folder() const { return folder_; }
    [[nodiscard]] const ComparedLaps& laps() const { return *laps_; }
    /// The same, to be kept while a worker looks at them.
    [[nodiscard]] std::shared_ptr<const ComparedLaps> shared_laps() const { return laps_; }
    /// The slot that the headline speaks of and whose line is painted: the focus's, as long as the laps have it.
    [[nodiscard]] int active_slot() const;
    /// The lap in that slot; only while there are laps.
    [[nodiscard]] const ComparedLap& active() const { return laps_->laps[static_cast<std::size_t>(active_slot())]; }
    /// The range in force: the focus's, or the whole lap.
    [[nodiscard]] Interval range_m() const;
    // What the traces show: metres of track on the distance and time axes, seconds since A's line on the run axis.
    /// The focus's; the run axis where laps have no places.
    [[nodiscard]] Axis axis() const { return laps_->empty() || laps_->on_track() ? focus_.state().axis : Axis::run; }
    [[nodiscard]] Interval view() const;
    [[nodiscard]] Interval view_limits() const;
    void set_view(Interval view);
    [[nodiscard]] double cursor_in_view() const;
    /// On the run axis the place on track follows while the moment lies in A's lap.
    void set_cursor_in_view(double at);
    /// The pin on the axis in force.
    [[nodiscard]] std::optional<double> pin_in_view() const;
    void set_pin_in_view(std::optional<double> at);
    /// Recording time of a slot at a place of the view: on the run axis the same moment, else the same place.
    [[nodiscard]] double time_in_view_s(int slot, double at) const;
    [[nodiscard]] double x_of_view(double at) const { return axis() == Axis::run ? at : x_of(0, at); }
    [[nodiscard]] double view_of_x(double x) const { return axis() == Axis::run ? x : distance_of(0, x); }
    /// Recording time of a slot at the cursor.
    [[nodiscard]] double cursor_time_s(int slot) const;

    /// What a view shows: its traces are computed, formulas included, as soon as there are laps. On the axis in force,
    /// or on the one named. Replaces what the view wanted before; ends with the view.
    void want(const QObject* view, const std::vector<std::string>& quantities, std::optional<Axis> axis = {});
    /// Whether any picked lap has a quantity logged, or there is a formula of that name.
    [[nodiscard]] bool offers(const std::string& quantity) const;
    /// Whether single values of a quantity can be read without waiting.
    [[nodiscard]] bool ready(const std::string& quantity) const;
    /// Its computation was cancelled; another choice of laps begins it anew.
    [[nodiscard]] bool was_cancelled(const std::string& quantity) const { return cancelled_.contains(quantity); }
    /// Why no picked lap has a quantity; empty when one has, or when it is still being computed.
    [[nodiscard]] QString why_not(const std::string& quantity) const;

    /// Curve of a wanted quantity ("gap" included) of a slot, on the focus's axis; empty while it is being computed.
    [[nodiscard]] const Trace& trace(int slot, const std::string& quantity) const {
        return trace(slot, quantity, axis());
    }
    [[nodiscard]] const Trace& trace(int slot, const std::string& quantity, Axis axis) const;
    /// Metres by which a slot's curves are slid along the road by hand; only on the distance axis.
    [[nodiscard]] double slid_m(int slot) const;
    /// "slid by hand +12.0 m"; empty where it is not.
    [[nodiscard]] QString slid_words(int slot) const;
    /// Track distance <-> where it is drawn on the x axis in force, for a slot.
    [[nodiscard]] double x_of(int slot, double distance_m) const;
    [[nodiscard]] double distance_of(int slot, double x) const;
    /// Value of a quantity of a slot at the cursor.
    [[nodiscard]] double value_at_cursor(int slot, const std::string& quantity) const;
    /// Where a slot's car is when the cursor stands on the baseline: same place, or on the time axis same moment.
    [[nodiscard]] double cursor_distance(int slot) const;
    /// Opened runs are opened again: their laps or corrections changed.
    void reload();
    /// Formulas, constants or what is written about runs changed: only what depends on that is done anew.
    void renew();
    [[nodiscard]] bool busy() const { return aligning_.running() || tracing_.running(); }

  Q_SIGNALS:
    void changed();
    void failed(const Error& error);

  private:
    using TraceKey = std::tuple<Axis, int, std::string>;
    using Traces = std::map<TraceKey, Trace>;
    struct Prepared;
    void start();
    void publish(Prepared prepared);
    void compute_wanted();
    void compute_formula(const std::string& quantity);
    void forget_computed();
    [[nodiscard]] std::set<std::pair<Axis, std::string>> wanted() const;
    static void add_traces(Traces& to, const ComparedLaps& laps, const std::set<std::pair<Axis, std::string>>& wanted);

    std::filesystem::path folder_;
    Focus& focus_;
    Jobs& jobs_;
    std::shared_ptr<const ComparedLaps> laps_ = std::make_shared<ComparedLaps>();
    std::map<RunId, std::shared_ptr<const RunData>> opened_;
    bool papers_changed_ = false;  ///< since `opened_` was read
    bool reopen_ = false;          ///< `laps_` are of recordings that may have changed
    struct Want {
        std::vector<std::string> quantities;
        std::optional<Axis> axis;
    };
    std::map<const QObject*, Want> wants_;
    Traces traces_;
    std::set<std::string> cancelled_;
    std::map<std::string, std::unique_ptr<Latest>> computing_;  ///< formulas that workers are at
    Latest aligning_, tracing_;
};

}  // namespace rendak::app
