#pragma once

#include <QMainWindow>

#include "app/desks/collect/collect_desk.h"
#include "app/desks/compare/compare_desk.h"
#include "app/desks/corners/corners_desk.h"
#include "app/desks/formulas/formulas_desk.h"
#include "app/desks/logbook/logbook_desk.h"
#include "app/desks/track/track_desk.h"
#include "app/shell/foot_line.h"
#include "app/shell/lap_tray.h"
#include "app/shell/rail.h"

class QStackedWidget;

namespace rendak::app {

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(std::unique_ptr<Library> library, QWidget* parent = nullptr);

    [[nodiscard]] Workspace& workspace() { return *workspace_; }
    [[nodiscard]] CollectDesk& collect() { return *collect_; }
    [[nodiscard]] LogbookDesk& logbook() { return *logbook_; }
    [[nodiscard]] CompareDesk& compare() { return *compare_; }
    [[nodiscard]] CornersDesk& corners() { return *corners_; }
    [[nodiscard]] TrackDesk& track() { return *track_; }
    [[nodiscard]] FormulasDesk& formulas() { return *formulas_; }
    [[nodiscard]] LapTray& tray() { return *tray_; }
    [[nodiscard]] FootLine& status() { return *status_; }
    void show_desk(const QString& name);
    [[nodiscard]] QString desk() const;
    void set_garage(bool on);
    void set_imperial(bool on);

  protected:
    void closeEvent(QCloseEvent* event) override;

  private:
    void add_actions();
    void show_view_menu();
    void show_shortcuts();
    void repaint_all();

    Workspace* workspace_;
    QStackedWidget* desks_;
    CollectDesk* collect_;
    LogbookDesk* logbook_;
    CompareDesk* compare_;
    CornersDesk* corners_;
    TrackDesk* track_;
    FormulasDesk* formulas_;
    LapTray* tray_;
    FootLine* status_;
    std::vector<std::pair<QString, RailButton*>> desk_buttons_;  ///< in the order of desks_
    RailButton* view_button_;
};

}  // namespace rendak::app
