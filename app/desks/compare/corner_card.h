#pragma once

#include <QWidget>

#include "app/desks/compare/story.h"
#include "app/desks/compare/work_book.h"
#include "app/plot/view_out.h"

namespace rendak::app {

/// All that there is to say of the corner at the cursor: the lines driven with what happens where, speed and pedals,
/// its row of the ledger, the figures of both sides with their scatter, sentences, notes and work items. The keys that
/// step from corner to corner turn its pages.
class CornerCard : public QWidget {
    Q_OBJECT
  public:
    CornerCard(Story& story, WorkBook& book, QWidget* parent = nullptr);

    /// Number of the corner that it shows; 0 while there is none.
    [[nodiscard]] int corner() const { return corner_; }
    /// What it says, line by line, figures included.
    [[nodiscard]] QStringList lines() const;
    [[nodiscard]] ViewOut out(const QString& name);
    [[nodiscard]] QSize sizeHint() const override { return {310, minimumHeight()}; }

  protected:
    void paintEvent(QPaintEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    /// A figure of both sides.
    struct FigureLine {
        QString label, unit, a, b, difference;
        int better = 0;  ///< +1: B's is the better one, -1: A's, 0: neither, or they scatter more than they differ
    };
    void take_over();
    void turn();
    void lay_out();
    void read_figures(std::size_t corner);
    void read_sentences();
    void paint(QPainter& painter, QSize size) const;
    [[nodiscard]] std::vector<Point> points_of(const DrawnLap& lap) const;
    void paint_line(QPainter& painter, QRect area) const;
    void paint_traces(QPainter& painter, QRect area) const;
    void paint_figures(QPainter& painter, int top, int width) const;
    [[nodiscard]] QString ledger_text() const;
    [[nodiscard]] QString data_text() const;
    [[nodiscard]] int figures_top() const;

    Story& story_;
    WorkBook& book_;
    std::shared_ptr<const ToldStory> told_;
    int corner_ = 0;
    Interval range_m_;  ///< of its pictures
    std::vector<FigureLine> figures_;
    QStringList sentences_;
    QString ledger_;
};

}  // namespace rendak::app
