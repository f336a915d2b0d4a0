#pragma once

#include <QWidget>
#include <optional>

#include "app/desks/compare/overview_page.h"
#include "app/desks/compare/story.h"
#include "app/plot/view_out.h"

namespace rendak::app {

/// Two laps, or the sets that stand for them, on one page: who and what, sectors, in words, what to do first, the best
/// of both. A click on a line shows its place.
class OverviewPicture : public QWidget {
    Q_OBJECT
  public:
    OverviewPicture(Story& story, Jobs& jobs, QWidget* parent = nullptr);
    /// Null until it is worked out.
    [[nodiscard]] const OverviewTold* told() const { return told_.get(); }
    [[nodiscard]] const OverviewPage* page() const { return page_ ? &*page_ : nullptr; }
    [[nodiscard]] ViewOut out(const QString& name);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    void take_over();
    void lay_out();

    Story& story_;
    Latest working_;
    std::shared_ptr<const ToldStory> of_;
    QString units_;
    std::shared_ptr<const OverviewTold> told_;
    std::optional<OverviewPage> page_;
};

}  // namespace rendak::app
