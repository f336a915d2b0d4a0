#pragma once

#include <QWidget>

#include "app/desks/compare/story.h"
#include "app/desks/compare/work_book.h"
#include "app/plot/view_out.h"

class QLabel;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace rendak::app {

/// What to work on, the surest and cheapest first, and what is being worked on, by driver, with what each later run
/// shows.
class WorkPanel : public QWidget {
    Q_OBJECT
  public:
    WorkPanel(Story& story, WorkBook& book, QWidget* parent = nullptr);

    [[nodiscard]] QTreeWidget& places() { return *places_; }
    [[nodiscard]] QTreeWidget& items() { return *items_; }
    [[nodiscard]] QPushButton& work_on_it() { return *work_on_; }
    [[nodiscard]] QPushButton& put_away() { return *put_away_; }
    [[nodiscard]] QString data_text() const;
    /// As lines of words: a list of the window would be given out as pixels.
    [[nodiscard]] ViewOut out(const QString& name);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fill_places();
    void fill_items();
    void enable();
    void go_to(const QTreeWidgetItem* item);
    [[nodiscard]] const LapFinding* chosen_finding() const;

    Story& story_;
    WorkBook& book_;
    std::shared_ptr<const ToldStory> told_;
    QLabel* head_;
    QTreeWidget *places_, *items_;
    QPushButton *work_on_, *put_away_;
};

}  // namespace rendak::app
