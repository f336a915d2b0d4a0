#pragma once

#include <QDialog>

#include "app/jobs/jobs.h"
#include "app/workspace/findable.h"

class QLineEdit;
class QTreeWidget;

namespace rendak::app {

class MainWindow;

/// One place to ask: actions, desks, pages, channels, corners, marks, runs, laps, drivers, settings and notes, found by
/// a few letters. Enter does it.
class Finder : public QDialog {
    Q_OBJECT
  public:
    explicit Finder(MainWindow& window);
    [[nodiscard]] QLineEdit& line() { return *line_; }
    [[nodiscard]] QTreeWidget& list() { return *list_; }

  protected:
    bool eventFilter(QObject* object, QEvent* event) override;

  private:
    void collect();
    void read_library();
    void fill();
    void choose(int row);

    MainWindow& window_;
    Latest reading_;
    QLineEdit* line_;
    QTreeWidget* list_;
    std::vector<Findable> all_;
    std::vector<QString> plain_;      ///< of each, what is looked at with every key
    std::vector<std::size_t> shown_;  ///< rows of the list, in `all_`
};

}  // namespace rendak::app
