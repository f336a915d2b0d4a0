#pragma once

#include <QAction>
#include <QKeySequence>
#include <QStringList>
#include <QWidget>
#include <functional>
#include <span>

#include "app/workspace/findable.h"
#include "app/workspace/workspace.h"

namespace rendak::app {

/// Takes pictures of the window for docs and for `--screenshots`.
class PictureBook {
  public:
    virtual ~PictureBook() = default;
    /// Waits until nothing is being computed.
    virtual void settle() = 0;
    /// Settles, and writes what the window shows then.
    virtual void take(const QString& name) = 0;
    /// The same of a dialog that is open.
    virtual void take(const QString& name, QWidget& dialog) = 0;
    /// The same in the dark theme.
    virtual void take_garage(const QString& name) = 0;
    /// The folder with the files that came with the demo library.
    [[nodiscard]] virtual std::filesystem::path demo_files() const = 0;
};

/// A main view of the window. It knows its workspace and no other desk.
class Desk : public QWidget {
    Q_OBJECT
  public:
    explicit Desk(Workspace& workspace, QWidget* parent = nullptr) : QWidget(parent), workspace_(workspace) {}

    /// The keyboard goes to what is used most here.
    virtual void take_focus() = 0;
    /// How the person has arranged the desk, as text that restore() understands; kept whenever state_changed() tells.
    [[nodiscard]] virtual QString state() const { return {}; }
    virtual void restore(const QString& /*state*/) {}
    /// Windows of its own that are open, as text that open_windows() understands.
    [[nodiscard]] virtual QStringList windows() const { return {}; }
    virtual void open_windows(const QStringList& /*windows*/) {}
    /// Asks about what would be lost; false: the window stays open.
    [[nodiscard]] virtual bool may_close() { return true; }
    /// What can be found by typing, besides the desk's actions; the desk is in front when one is chosen.
    virtual void add_findables(std::vector<Findable>& /*out*/) {}
    /// What is to be seen of it.
    virtual void show_pictures(PictureBook& book) = 0;

  Q_SIGNALS:
    void state_changed();

  protected:
    /// A key that works while the desk is in front, and stands in the list of shortcuts.
    template <class Act>
    QAction* add_key(const QString& text, const QList<QKeySequence>& keys, Act act) {
        auto* action = new QAction(text, this);
        action->setShortcuts(keys);
        action->setShortcutContext(Qt::WidgetWithChildrenShortcut);
        connect(action, &QAction::triggered, this, act);
        addAction(action);
        return action;
    }

    Workspace& workspace_;
};

/// One row of the table of desks (all_desks.cpp), in the order of the rail.
struct DeskKind {
    const char* id;     ///< in settings and in the code; also the name of its icon
    const char* title;  ///< to be translated
    bool of_laps;       ///< shows the picked laps: nothing to see before laps are picked
    Desk* (*make)(Workspace&, QWidget* parent);
};
[[nodiscard]] std::span<const DeskKind> all_desks();

}  // namespace rendak::app
