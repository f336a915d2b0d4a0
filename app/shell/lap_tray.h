#pragma once

#include <QWidget>

#include "app/workspace/workspace.h"

class QHBoxLayout;
class QLabel;
class QMenu;
class QToolButton;

namespace rendak::app {

/// A picked lap as a card with its letter. A click makes it the lap that the headline speaks of and the brackets step;
/// its menu makes it the baseline or takes it away.
class LapCard : public QWidget {
    Q_OBJECT
  public:
    LapCard(Workspace& workspace, int slot, QWidget* parent = nullptr);
    [[nodiscard]] QSize sizeHint() const override { return {210, 38}; }
    [[nodiscard]] int slot() const { return slot_; }
    /// The four texts of the card: driver, run and lap, time, and what it is to the baseline.
    [[nodiscard]] QStringList texts() const;
    void refresh();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void show_menu(QPoint at);
    Workspace& workspace_;
    int slot_;
};

/// The strip on top that holds the picked laps; slot A is the baseline.
class LapTray : public QWidget {
    Q_OBJECT
  public:
    explicit LapTray(Workspace& workspace, QWidget* parent = nullptr);
    /// The cards in use, A first.
    [[nodiscard]] std::vector<LapCard*> cards() const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void rebuild();
    void fill_add_menu();
    void fill_laps_menu(QMenu& menu, RunId run);
    Workspace& workspace_;
    QHBoxLayout* row_;
    std::vector<LapCard*> cards_;  // one a slot, made once; those without a lap are hidden
    QToolButton* add_;
    QToolButton* fastest_;
    QMenu* add_menu_;
    QLabel* place_;
};

}  // namespace rendak::app
