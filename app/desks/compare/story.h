#pragma once

#include "app/desks/compare/seen_by.h"
#include "app/focus/comparison.h"
#include "core/analysis/corner_figure.h"
#include "core/analysis/excursion.h"
#include "core/analysis/findings.h"
#include "core/analysis/work_list.h"

class QComboBox;

namespace rendak::app {

/// Which laps stand for the two that are compared.
enum class LapsTaken { these_two, counting, near_best, picked, day };
inline constexpr int laps_taken_count = 5;

/// A lap to be drawn at every few metres of track: who paints reads no channel.
struct DrawnLap {
    static constexpr double step_m = 3;
    std::vector<Point> line;                  ///< in the track's plane; NaN where it is not known
    std::vector<double> speed_mps, throttle;  ///< NaN where they are not logged
};

/// What can be said of two sets of laps. Plain and immutable once published.
struct ToldStory {
    std::vector<PreparedLap> a, b;
    RunRow run_a, run_b;  ///< of the two laps that the sets belong to
    LapStory story;
    std::vector<Worth> worth;  ///< of A; empty where it cannot be told
    std::vector<WorkPlace> work;
    CornerFigureTable figures_a, figures_b;  ///< laps × corners × figures
    std::vector<std::vector<CornerEvents>> events_a, events_b;
    std::vector<DrawnLap> drawn_a, drawn_b;  ///< the first of them: more would be a smear
    /// Where a lap of B left the way that the others of its run went.
    std::vector<std::pair<LapRef, Excursion>> excursions;
    /// What else is in the tray, lap by lap or set by set, against A too.
    struct Beside {
        int slot = 0;
        RunRow run;
        LapRef first;
        Ledger ledger;
        [[nodiscard]] const LedgerRow* row_of(int corner) const;
    };
    std::vector<Beside> beside;
    std::vector<std::pair<int, QString>> not_beside;  ///< slots that could not be, and why
    [[nodiscard]] const Track& track() const { return *a.front().track; }
    /// The row of the ledger that a place lies in.
    [[nodiscard]] const LedgerRow& row_at(double distance_m) const;
};

/// Follows the comparison: works out what there is to say of the active lap against A, or of sets of laps that stand
/// for the two, for the pictures beside the traces that show it. Only while one of them is to be seen.
class Story : public QObject {
    Q_OBJECT
  public:
    Story(Focus& focus, Comparison& comparison, Jobs& jobs, QObject* parent = nullptr);

    void take(LapsTaken which);
    [[nodiscard]] LapsTaken taken() const { return taken_; }
    /// A choice that follows this story, and leads it.
    [[nodiscard]] QComboBox* laps_box();
    /// What is shown by such a widget is wanted as long as it is to be seen: to be asked when it is shown.
    void wanted_by(QWidget* view) {
        seen_by_.add(view);
        work_out();
    }

    /// Null until it is worked out, and where there is none: then message() says why.
    [[nodiscard]] std::shared_ptr<const ToldStory> told() const { return told_; }
    [[nodiscard]] const QString& message() const { return message_; }
    /// "B Run 3, 5 laps against A Run 2, 8 laps"
    [[nodiscard]] QString head_text() const;
    [[nodiscard]] QString name_of(const ToldStory::Beside& it) const;
    /// Of one of the two: "B Run 3, 5 laps". Only while there is something told.
    [[nodiscard]] QString side_name(bool of_a) const;
    [[nodiscard]] int told_slot() const { return of_slot_; }
    /// Names and units for finding_words(): `reverse` of what A does.
    [[nodiscard]] WordUnits words(bool reverse) const;
    [[nodiscard]] Comparison& comparison() { return comparison_; }
    [[nodiscard]] Focus& focus() { return focus_; }
    /// "1 km/h more is worth 0.064 s at the slowest place, 0.023 s at the exit"; empty where it cannot be told.
    [[nodiscard]] QString worth_text(int corner) const;
    /// Goes to a stretch of the track.
    void show(Interval range_m, double place_m);

  Q_SIGNALS:
    void changed();
    void taken_changed();

  private:
    void work_out();
    [[nodiscard]] QString side_text(int slot, const RunRow& run, LapRef first, std::size_t laps) const;

    Focus& focus_;
    Comparison& comparison_;
    Latest working_;
    SeenBy seen_by_;
    LapsTaken taken_ = LapsTaken::these_two;
    std::shared_ptr<const ComparedLaps> of_;     ///< what it was worked out of,
    int of_slot_ = 0;                            ///< for which lap,
    LapsTaken of_taken_ = LapsTaken::these_two;  ///< and how
    std::shared_ptr<const ToldStory> told_;
    QString message_;
    QString units_;  ///< that the told words are in
};

}  // namespace rendak::app
