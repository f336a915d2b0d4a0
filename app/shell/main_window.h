#pragma once

#include <QMainWindow>

#include "app/shell/foot_line.h"
#include "app/shell/lap_tray.h"
#include "app/shell/rail.h"
#include "app/workspace/desk.h"

class QStackedWidget;

namespace rendak::app {

/// The window: rail, lap tray, one desk at a time, foot line. Windows of one session share the library, its edits and
/// its jobs; they share a selection (picked laps, range, cursor) or have their own.
class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(std::unique_ptr<Library> library);
    MainWindow(const std::shared_ptr<Session>& session, std::shared_ptr<Selection> selection);

    [[nodiscard]] Workspace& workspace() { return *workspace_; }
    /// The desk of a class.
    template <class D>
    [[nodiscard]] D& desk_of() const {
        for (Desk* desk : desks_) {
            if (auto* wanted = qobject_cast<D*>(desk)) return *wanted;
        }
        qFatal("there is no such desk");
    }
    [[nodiscard]] const std::vector<Desk*>& desks() const { return desks_; }
    [[nodiscard]] LapTray& tray() { return *tray_; }
    [[nodiscard]] FootLine& status() { return *status_; }
    void show_desk(const QString& name);
    void show_desk(Desk* desk);
    [[nodiscard]] QString title_of_desk(const Desk& desk) const;
    /// One place to ask: anything by a few letters.
    void find_anything();
    /// Theme, units, windows, the library: what the View menu holds.
    void add_settings(std::vector<Findable>& out);
    void show_shortcuts();
    /// What to look at first of a run (of none: the latest), in steps.
    void show_first_look(std::optional<RunId> run);
    [[nodiscard]] QString desk() const;
    void set_garage(bool on);
    void set_imperial(bool on);
    /// Theme or units changed: every window is drawn again.
    void repaint_all();
    /// Another window on the same library: with the same laps, range and cursor, or with a choice of its own.
    MainWindow* open_another(bool same_selection);

    /// How the windows of this session stand: each one's place, desk, and whether it shares the first one's laps.
    [[nodiscard]] static QStringList arrangement(const MainWindow& first, const MainWindow* without = nullptr);
    /// Puts this window, and further ones, where they stood.
    void arrange(const QStringList& windows);
    /// Closes all windows; they come back as they are.
    void leave();

    /// The library in another folder (made when there is none) takes the place of this one: its window comes, the
    /// windows of this session go. Null, and told, when it cannot be opened.
    MainWindow* use_library(const QString& folder);
    void show_library_page();

  protected:
    void closeEvent(QCloseEvent* event) override;

  private:
    [[nodiscard]] QString desk_windows() const;
    void open_desk_windows(const QString& text);
    void add_actions();
    void show_view_menu();

    Workspace* workspace_;
    std::vector<Desk*> desks_;  ///< in the order of all_desks()
    QStackedWidget* stack_;
    LapTray* tray_;
    FootLine* status_;
    std::vector<RailButton*> desk_buttons_;
    RailButton* view_button_;
};

}  // namespace rendak::app
