#pragma once

#include <QTreeWidget>
#include <vector>

#include "core/intake/watch_book.h"

namespace rendak::app {

/// What a watch rule said of a run that is shown.
struct WatchShown {
    std::shared_ptr<const RunData> run;
    int slot = 0;
    QString title;  ///< of the run
    KeptWatch kept;
    QString trend;  ///< over the runs of its car
};

/// Watch rules that spoke on the runs, each time under it; then those that are silent, and what cannot be told.
class WatchList : public QTreeWidget {
    Q_OBJECT
  public:
    explicit WatchList(QWidget* parent = nullptr);
    void set_shown(std::vector<WatchShown> shown);
    [[nodiscard]] const std::vector<WatchShown>& shown_rules() const { return shown_; }
    /// The rule of the line that is chosen; none: a line of several.
    [[nodiscard]] const WatchShown* chosen() const;

  Q_SIGNALS:
    /// A moment is to be seen: in a lap, or in the whole run where it lies in none.
    void moment_asked(RunId run, double time_s);

  private:
    std::vector<WatchShown> shown_;
};

/// "0.33 bar", of the value of a rule; "" where it says nothing.
[[nodiscard]] QString watch_value(const WatchRule& rule, const WatchTold& told, double si);
/// "Run 5: laps 13–18, Turn 9 and 2 more places, 35 times".
[[nodiscard]] QString watch_words(const WatchShown& shown);

}  // namespace rendak::app
