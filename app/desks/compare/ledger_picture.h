#pragma once

#include <QWidget>

#include "app/desks/compare/story.h"
#include "app/plot/view_out.h"

namespace rendak::app {

/// The time ledger of the active lap against A, or of sets of laps that stand for the two, a row a corner with the road
/// behind it: lost in the corner itself, carried along from its exit, and how the car pulls; net at the foot. Below it
/// the corners in groups, what B does otherwise where it loses, what A does where B is better, and what more laps would
/// have to tell. A click shows the place.
class LedgerPicture : public QWidget {
    Q_OBJECT
  public:
    explicit LedgerPicture(Story& story, QWidget* parent = nullptr);
    /// All laps that count of the two laps' runs, or the two laps alone.
    void widen(bool on) { story_.take(on ? LapsTaken::counting : LapsTaken::these_two); }
    [[nodiscard]] bool is_wide() const { return story_.taken() != LapsTaken::these_two; }
    /// Null until it is worked out.
    [[nodiscard]] const Ledger* ledger() const { return told_ ? &told_->story.ledger : nullptr; }
    /// What explains it, the most costly first, in sentences below it.
    [[nodiscard]] const std::vector<LapFinding>& findings() const;
    [[nodiscard]] QRect area_of(std::size_t row) const;
    [[nodiscard]] QString finding_text(const LapFinding& finding, bool reverse = false) const;
    /// Sentences below the rows.
    struct Sentence {
        enum class Kind { groups, others, lost, won, unsure };
        Kind kind;
        QString text, more;
        QRect area;
        int corner = 0;
        double at_m = 0;
    };
    [[nodiscard]] const std::vector<Sentence>& sentences() const { return sentences_; }
    [[nodiscard]] QRect area_of_finding(std::size_t finding) const;
    [[nodiscard]] QString head_text() const { return story_.head_text(); }
    [[nodiscard]] QString foot_text() const;
    /// What a row says when it is pointed at.
    [[nodiscard]] QString row_text(const LedgerRow& row) const;
    [[nodiscard]] ViewOut out(const QString& name);
    [[nodiscard]] QSize sizeHint() const override;

  Q_SIGNALS:
    void state_changed();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    void take_over();
    void lay_out();
    void paint(QPainter& painter, QSize size) const;
    void paint_row(QPainter& painter, QRect area, const LedgerRow& row, double most_s) const;
    void paint_sentences(QPainter& painter) const;
    [[nodiscard]] QString data_text() const;
    [[nodiscard]] std::optional<std::size_t> row_at(QPoint at) const;
    [[nodiscard]] int rows_end() const;

    Story& story_;
    std::shared_ptr<const ToldStory> told_;
    std::vector<Sentence> sentences_;
    int head_ = 34;   ///< height above the rows
    int names_ = 62;  ///< width of the corners' names
};

}  // namespace rendak::app
