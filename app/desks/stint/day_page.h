#pragma once

#include <QWidget>

#include "app/workspace/workspace.h"
#include "core/intake/day_report.h"

class QLabel;
class QTableWidget;

namespace rendak::app {

/// The runs of an event in the order driven: best, mean, scatter, speeds, what the driver did; under it what improved,
/// what is the next to improve, and what cannot be the cause of a lower top speed.
class DayPage : public QWidget {
    Q_OBJECT
  public:
    explicit DayPage(Workspace& workspace, QWidget* parent = nullptr);
    /// Works out an event, when the page is in sight; a run of it is chosen.
    void set_event(const std::string& event, RunId chosen);
    /// Something changed that it rests on.
    void work_again() { set_event(event_, chosen_); }
    [[nodiscard]] QTableWidget& table() { return *table_; }
    [[nodiscard]] QString words() const;
    [[nodiscard]] QString as_text(QChar between) const;

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void work();
    void show_day(std::vector<DayRun> day);
    void show_words(int row);

    Workspace& workspace_;
    QLabel *headline_, *words_;
    QTableWidget* table_;
    std::string event_;
    RunId chosen_;
    bool stale_ = true;
    std::vector<DayRun> day_;
    Latest working_;
};

}  // namespace rendak::app
