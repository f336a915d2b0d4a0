#pragma once

#include <QWidget>

#include "app/focus/comparison.h"
#include "app/plot/view_out.h"
#include "core/analysis/findings.h"

namespace rendak::app {

/// The time ledger of the active lap against A, a row a corner with the road behind it: lost in the corner itself,
/// carried along from its exit, and how the car pulls; net at the foot, and below it what B does otherwise. Of two
/// laps, or of all laps that count of their runs. A click shows the place.
class LedgerPicture : public QWidget {
    Q_OBJECT
  public:
    LedgerPicture(Focus& focus, Comparison& comparison, Jobs& jobs, QWidget* parent = nullptr);
    /// All laps that count of the two laps' runs, or the two laps alone.
    void widen(bool on);
    [[nodiscard]] bool is_wide() const { return wide_; }
    /// Null until it is worked out.
    [[nodiscard]] const Ledger* ledger() const { return ledger_ ? &*ledger_ : nullptr; }
    /// What explains it, the most costly first, in sentences below it.
    [[nodiscard]] const std::vector<LapFinding>& findings() const { return findings_; }
    [[nodiscard]] QRect area_of(std::size_t row) const;
    [[nodiscard]] QString finding_text(const LapFinding& finding) const;
    [[nodiscard]] QRect area_of_finding(std::size_t finding) const;
    [[nodiscard]] QString head_text() const;
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

  private:
    void work_out();
    void paint(QPainter& painter, QSize size) const;
    void paint_row(QPainter& painter, QRect area, const LedgerRow& row, double most_s) const;
    [[nodiscard]] QString data_text() const;
    [[nodiscard]] std::optional<std::size_t> row_at(QPoint at) const;

    Focus& focus_;
    Comparison& comparison_;
    Latest working_;
    bool wide_ = false;
    std::shared_ptr<const ComparedLaps> of_;  ///< what it was worked out of,
    int of_slot_ = 0;                         ///< for which lap,
    bool of_wide_ = false;                    ///< and how
    std::optional<Ledger> ledger_;
    std::vector<LapFinding> findings_;
    std::vector<Worth> worth_;  ///< of A; empty where it cannot be told
    QString message_;
};

}  // namespace rendak::app
