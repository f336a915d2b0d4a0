#include "app/shell/main_window.h"

#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

MainWindow::MainWindow(std::unique_ptr<Library> library, QWidget* parent) : QMainWindow(parent) {
    keep_text_plain();
    workspace_ = new Workspace(std::move(library), this);
    set_imperial_units(workspace_->shown(workspace_->library().setting("units")) == "imperial");
    apply_theme(workspace_->shown(workspace_->library().setting("theme")) == "garage");
    const std::string& look_only = workspace_->library().look_only();
    setWindowTitle(look_only.empty() ? tr("Rendak") : tr("Rendak (to be looked at only)"));
    resize(1280, 800);

    auto* rail = new Rail;
    for (const auto& [name, label] : {std::pair{QStringLiteral("collect"), tr("Collect")},
                                      {QStringLiteral("logbook"), tr("Logbook")},
                                      {QStringLiteral("compare"), tr("Compare")},
                                      {QStringLiteral("corners"), tr("Corners")},
                                      {QStringLiteral("track"), tr("Track")},
                                      {QStringLiteral("formulas"), tr("Formulas")}})
        desk_buttons_.emplace_back(name, rail->add_desk(name, label));
    view_button_ = rail->add_foot(QStringLiteral("view"), tr("View"));
    tray_ = new LapTray(*workspace_);
    collect_ = new CollectDesk(*workspace_);
    logbook_ = new LogbookDesk(*workspace_);
    compare_ = new CompareDesk(*workspace_);
    corners_ = new CornersDesk(*workspace_);
    track_ = new TrackDesk(*workspace_);
    formulas_ = new FormulasDesk(*workspace_);
    status_ = new FootLine(*workspace_);
    desks_ = new QStackedWidget;
    desks_->addWidget(collect_);
    desks_->addWidget(logbook_);
    desks_->addWidget(compare_);
    desks_->addWidget(corners_);
    desks_->addWidget(track_);
    desks_->addWidget(formulas_);

    auto* middle = new QWidget;
    auto* row = new QHBoxLayout(middle);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    auto* column = new QVBoxLayout;
    column->setSpacing(0);
    column->addWidget(tray_);
    column->addWidget(desks_, 1);
    column->addWidget(status_);
    row->addWidget(rail);
    row->addLayout(column, 1);
    setCentralWidget(middle);

    for (const auto& [name, button] : desk_buttons_)
        connect(button, &QAbstractButton::clicked, this, [this, desk = name] { show_desk(desk); });
    connect(view_button_, &QAbstractButton::clicked, this, &MainWindow::show_view_menu);
    connect(workspace_, &Workspace::desk_asked, this, &MainWindow::show_desk);
    connect(formulas_, &FormulasDesk::compare_asked, this, [this](const QString& quantity) {
        auto lanes = compare_->canvas().lanes();
        const std::string id = quantity.toStdString();
        const bool present =
            std::any_of(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.quantity == id; });
        if (!present) lanes.push_back({id, 0.9});
        compare_->canvas().set_lanes(std::move(lanes));
        show_desk(QStringLiteral("compare"));
    });
    connect(workspace_, &Workspace::told, this, [this](const QString& text) { status_->tell(text, false); });
    connect(workspace_, &Workspace::failed, this, [this](const QString& text) { status_->tell(text, true); });
    connect(&workspace_->comparison(), &Comparison::changed, this, [this] {
        QStringList problems;
        for (const QString& problem : workspace_->comparison().laps().problems) problems << problem;
        if (!problems.isEmpty()) status_->tell(problems.join(u' '), true);
    });
    add_actions();
    workspace_->restore_focus();
    const auto desk = QString::fromStdString(workspace_->shown(workspace_->library().setting("desk")));
    const bool nothing_to_compare = desk == QLatin1String("compare") && workspace_->focus().state().laps.empty();
    show_desk(desk.isEmpty() || nothing_to_compare ? QStringLiteral("logbook") : desk);
    if (!look_only.empty())
        status_->tell(tr("This library is open to be looked at only: %1. Edits are not kept.")
                          .arg(QString::fromStdString(look_only)),
                      true);
}

void MainWindow::add_actions() {
    const auto add = [this](const QString& text, const QList<QKeySequence>& keys, auto act) {
        auto* action = new QAction(text, this);
        action->setShortcuts(keys);
        connect(action, &QAction::triggered, this, act);
        addAction(action);
        return action;
    };
    int digit = Qt::Key_1;
    for (const auto& [name, button] : desk_buttons_)
        add(button->text(), {QKeySequence(Qt::CTRL | static_cast<Qt::Key>(digit++))},
            [this, desk = name] { show_desk(desk); });
    add(tr("Previous lap of the active card"), {QKeySequence(Qt::Key_BracketLeft)},
        [this] { workspace_->step_lap(-1); });
    add(tr("Next lap of the active card"), {QKeySequence(Qt::Key_BracketRight)}, [this] { workspace_->step_lap(1); });
    add(tr("Undo the last edit"), {QKeySequence(QKeySequence::Undo)},
        [this] { status_->tell(workspace_->undo_last(), false); });
    add(tr("Redo"), {QKeySequence(QKeySequence::Redo)}, [this] { status_->tell(workspace_->redo_last(), false); });
    add(tr("List of shortcuts"), {QKeySequence(Qt::Key_F1)}, [this] { show_shortcuts(); });
    // On Compare only: the same keys mean something else in a list.
    const auto on_compare = [&](const QString& text, const QList<QKeySequence>& keys, auto act) {
        auto* action = new QAction(text, compare_);
        action->setShortcuts(keys);
        action->setShortcutContext(Qt::WidgetWithChildrenShortcut);
        connect(action, &QAction::triggered, this, act);
        compare_->addAction(action);
    };
    on_compare(tr("Cursor left"), {QKeySequence(Qt::Key_Left)}, [this] { compare_->step_cursor(-1); });
    on_compare(tr("Cursor right"), {QKeySequence(Qt::Key_Right)}, [this] { compare_->step_cursor(1); });
    on_compare(tr("Cursor left, coarse"), {QKeySequence(Qt::SHIFT | Qt::Key_Left)},
               [this] { compare_->step_cursor(-20); });
    on_compare(tr("Cursor right, coarse"), {QKeySequence(Qt::SHIFT | Qt::Key_Right)},
               [this] { compare_->step_cursor(20); });
    on_compare(tr("Next corner"), {QKeySequence(Qt::Key_PageDown)}, [this] { compare_->step_corner(1); });
    on_compare(tr("Previous corner"), {QKeySequence(Qt::Key_PageUp)}, [this] { compare_->step_corner(-1); });
    on_compare(tr("Whole lap"), {QKeySequence(Qt::Key_Home)}, [this] { compare_->canvas().show_whole_lap(); });
    on_compare(tr("Zoom in"), {QKeySequence(Qt::Key_Up), QKeySequence(Qt::Key_Plus)},
               [this] { compare_->canvas().zoom(workspace_->comparison().cursor_in_view(), 0.7); });
    on_compare(tr("Zoom out"), {QKeySequence(Qt::Key_Down), QKeySequence(Qt::Key_Minus)},
               [this] { compare_->canvas().zoom(workspace_->comparison().cursor_in_view(), 1 / 0.7); });
    on_compare(tr("Back to the range before"), {QKeySequence(Qt::Key_Escape)},
               [this] { compare_->canvas().zoom_back(); });
    on_compare(tr("Next page of lanes"), {QKeySequence(Qt::Key_P)}, [this] { compare_->step_page(1); });
    on_compare(tr("Previous page of lanes"), {QKeySequence(Qt::SHIFT | Qt::Key_P)},
               [this] { compare_->step_page(-1); });
    on_compare(tr("Back to the best lap of the active card's run"), {QKeySequence(Qt::Key_B)},
               [this] { workspace_->best_of_active(); });
    on_compare(tr("The whole run, or the lap"), {QKeySequence(Qt::Key_W)}, [this] { compare_->toggle_run(); });
    on_compare(tr("Distance or time axis"), {QKeySequence(Qt::Key_D)}, [this] { compare_->toggle_axis(); });
}

void MainWindow::show_desk(const QString& name) {
    for (std::size_t i = 0; i < desk_buttons_.size(); ++i) {
        if (desk_buttons_[i].first != name) continue;
        desks_->setCurrentIndex(static_cast<int>(i));
        desk_buttons_[i].second->setChecked(true);
    }
    if (name == QLatin1String("compare"))
        compare_->canvas().setFocus();
    else if (name == QLatin1String("collect"))
        collect_->focus_list();
    else if (name == QLatin1String("corners"))
        corners_->focus_list();
    else if (name == QLatin1String("track"))
        track_->focus_list();
    else if (name == QLatin1String("formulas"))
        formulas_->focus_list();
    else
        logbook_->focus_list();
}

QString MainWindow::desk() const {
    return desk_buttons_[static_cast<std::size_t>(desks_->currentIndex())].first;
}

void MainWindow::show_view_menu() {
    QMenu menu;
    QAction* garage = menu.addAction(tr("Garage (dark)"));
    garage->setCheckable(true);
    garage->setChecked(is_garage());
    QAction* imperial = menu.addAction(tr("mph, psi, °F, inches"));
    imperial->setCheckable(true);
    imperial->setChecked(imperial_units());
    menu.addSeparator();
    const QAction* shortcuts = menu.addAction(tr("Shortcuts …\tF1"));
    const QAction* chosen = menu.exec(view_button_->mapToGlobal(QPoint(view_button_->width(), 0)));
    if (chosen == garage)
        set_garage(garage->isChecked());
    else if (chosen == imperial)
        set_imperial(imperial->isChecked());
    else if (chosen == shortcuts)
        show_shortcuts();
}

void MainWindow::set_garage(bool on) {
    apply_theme(on);
    if (const auto saved = workspace_->library().set_setting("theme", on ? "garage" : "light"); !saved)
        workspace_->tell(saved.error());
    repaint_all();
}

void MainWindow::set_imperial(bool on) {
    set_imperial_units(on);
    if (const auto saved = workspace_->library().set_setting("units", on ? "imperial" : "metric"); !saved)
        workspace_->tell(saved.error());
    repaint_all();
}

void MainWindow::repaint_all() {
    Q_EMIT workspace_->comparison().changed();
    for (QWidget* widget : findChildren<QWidget*>()) widget->update();
}

void MainWindow::show_shortcuts() {
    QDialog dialog(this);
    dialog.setWindowTitle(tr("Shortcuts"));
    auto* grid = new QGridLayout(&dialog);
    grid->setHorizontalSpacing(24);
    int row = 0;
    for (const QAction* action : actions() + compare_->actions()) {
        QStringList keys;
        for (const QKeySequence& key : action->shortcuts()) keys << key.toString(QKeySequence::NativeText);
        auto* key_label = new PlainLabel(keys.join(tr(" or ")));
        key_label->setFont(body_font(true));
        grid->addWidget(key_label, row, 0);
        grid->addWidget(new PlainLabel(action->text()), row++, 1);
    }
    for (const auto& [keys, text] :
         {std::pair{tr("Drag on a trace"), tr("Zoom to that stretch; a click puts the cursor there")},
          {tr("Wheel"), tr("Zoom about the pointer; with Shift: move along the lap")},
          {tr("Shift and drag"), tr("Move along the lap")},
          {tr("Double-click"), tr("Whole lap")}}) {
        auto* key_label = new PlainLabel(keys);
        key_label->setFont(body_font(true));
        grid->addWidget(key_label, row, 0);
        grid->addWidget(new PlainLabel(text), row++, 1);
    }
    dialog.exec();
}

void MainWindow::closeEvent(QCloseEvent* event) {
    workspace_->jobs().cancel_all();
    if (workspace_->library().is_look_only()) return event->accept();
    workspace_->save_focus();
    if (const auto saved = workspace_->library().set_setting("desk", desk().toStdString()); !saved)
        workspace_->tell(saved.error());
    event->accept();
}

}  // namespace rendak::app
