#include "app/shell/main_window.h"

#include "app/shell/finder.h"
#include "app/shell/first_look.h"
#include "app/shell/library_page.h"
#include "app/shell/shortcuts_dialog.h"
#include "app/shell/units_dialog.h"

#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScreen>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "app/focus/focus_state.h"
#include "app/session/preferences.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

/// As wished, but never beyond what the screen has free beside panels and the window's own frame.
QSize fitting_size(const QScreen* screen) {
    constexpr int title_bar_px = 40, border_px = 8;
    const QSize wished(1280, 740);
    if (screen == nullptr) return wished;
    return wished.boundedTo(screen->availableSize() - QSize(border_px, title_bar_px));
}

/// All windows are closed together.
bool leaving = false;

QString title_of(const DeskKind& kind) {
    return QCoreApplication::translate("Desk", kind.title);
}

}  // namespace

MainWindow::MainWindow(std::unique_ptr<Library> library)
    : MainWindow(std::make_shared<Session>(std::move(library)), nullptr) {}

MainWindow::MainWindow(const std::shared_ptr<Session>& session, std::shared_ptr<Selection> selection) {
    keep_text_plain();
    Preferences& person = Preferences::of_person();
    set_imperial_units(person.imperial());
    person.read_shown();
    apply_theme(person.garage());
    const bool own_selection = selection == nullptr;
    if (own_selection) selection = std::make_shared<Selection>(*session);
    workspace_ = new Workspace(session, selection, this);
    const std::string& look_only = workspace_->library().look_only();
    setWindowTitle(look_only.empty() ? tr("Rendak") : tr("Rendak (to be looked at only)"));
    resize(fitting_size(screen()));

    // From the outside in: whatever is put into something else is styled anew with all that it holds.
    auto* middle = new QWidget(this);
    setCentralWidget(middle);
    auto* row = new QHBoxLayout(middle);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    auto* rail = new Rail(middle);
    row->addWidget(rail);
    for (const DeskKind& kind : all_desks()) {
        const QString id = QString::fromLatin1(kind.id);
        desk_buttons_.push_back(rail->add_desk(id, title_of(kind)));
        connect(desk_buttons_.back(), &QAbstractButton::clicked, this, [this, id] { show_desk(id); });
    }
    view_button_ = rail->add_foot(QStringLiteral("view"), tr("View"));
    auto* column = new QVBoxLayout;
    row->addLayout(column, 1);
    column->setSpacing(0);
    tray_ = new LapTray(*workspace_, middle);
    column->addWidget(tray_);
    // On a screen with less room than a desk needs the desk scrolls; rail, tray and foot stay in sight.
    auto* room = new QScrollArea(middle);
    room->setFrameShape(QFrame::NoFrame);
    room->setWidgetResizable(true);
    room->setFocusPolicy(Qt::NoFocus);
    stack_ = new QStackedWidget(room->viewport());
    room->setWidget(stack_);
    column->addWidget(room, 1);
    for (const DeskKind& kind : all_desks()) {
        const QString id = QString::fromLatin1(kind.id);
        Desk* desk = kind.make(*workspace_, stack_);
        desk->restore(person.desk_state(id));
        connect(desk, &Desk::state_changed, this,
                [desk, id] { Preferences::of_person().set_desk_state(id, desk->state()); });
        desks_.push_back(desk);
        stack_->addWidget(desk);
    }
    // Last, as the Tab key comes by.
    status_ = new FootLine(*workspace_, middle);
    column->addWidget(status_);
    // What desks hid of themselves while they were out of sight does not count for their smallest size: Qt tells only
    // those in sight.
    for (QWidget* it : stack_->findChildren<QWidget*>()) it->updateGeometry();

    connect(view_button_, &QAbstractButton::clicked, this, &MainWindow::show_view_menu);
    connect(workspace_, &Workspace::desk_asked, this, [this](const QString& id) { show_desk(id); });
    connect(workspace_, &Workspace::first_look_asked, this, [this](RunId run) { show_first_look(run); });
    connect(session.get(), &Session::told, this, [this](const QString& text) { status_->tell(text, false); });
    connect(session.get(), &Session::failed, this, [this](const QString& text) { status_->tell(text, true); });
    connect(&workspace_->comparison(), &Comparison::changed, this, [this] {
        QStringList problems;
        for (const QString& problem : workspace_->comparison().laps().problems) problems << problem;
        if (!problems.isEmpty()) status_->tell(problems.join(u' '), true);
    });
    add_actions();
    use_own_keys(*this);
    if (own_selection) selection->restore();
    const QString desk = person.desk();
    const bool nothing_to_compare = desk == QLatin1String("compare") && workspace_->focus().state().laps.empty();
    show_desk(QStringLiteral("logbook"));
    if (!desk.isEmpty() && !nothing_to_compare) show_desk(desk);
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
    };
    int digit = Qt::Key_1;
    for (const DeskKind& kind : all_desks()) {
        if (digit > Qt::Key_9 + 1) break;
        // The tenth has the key behind 9.
        add(title_of(kind), {QKeySequence(Qt::CTRL | (digit > Qt::Key_9 ? Qt::Key_0 : static_cast<Qt::Key>(digit)))},
            [this, id = QString::fromLatin1(kind.id)] { show_desk(id); });
        ++digit;
    }
    Selection& selection = *workspace_->selection();
    Session& session = *workspace_->session();
    add(tr("Previous lap of the active card"), {QKeySequence(Qt::Key_BracketLeft)},
        [&selection] { selection.step_lap(-1); });
    add(tr("Next lap of the active card"), {QKeySequence(Qt::Key_BracketRight)},
        [&selection] { selection.step_lap(1); });
    add(tr("Undo the last edit"), {QKeySequence(QKeySequence::Undo)}, [&session] { session.undo(); });
    add(tr("Redo"), {QKeySequence(QKeySequence::Redo)}, [&session] { session.redo(); });
    add(tr("Another window with the same laps"), {QKeySequence(QKeySequence::New)}, [this] { open_another(true); });
    add(tr("Close Rendak; its windows come back as they are"), {QKeySequence(Qt::CTRL | Qt::Key_Q)},
        [this] { leave(); });
    add(tr("Find anything"), {QKeySequence(Qt::CTRL | Qt::Key_K)}, [this] { find_anything(); });
    add(tr("List of shortcuts"), {QKeySequence(Qt::Key_F1)}, [this] { show_shortcuts(); });
}

void MainWindow::show_desk(const QString& name) {
    const auto kinds = all_desks();
    for (std::size_t i = 0; i < kinds.size(); ++i) {
        if (QLatin1String(kinds[i].id) != name) continue;
        stack_->setCurrentIndex(static_cast<int>(i));
        desk_buttons_[i]->setChecked(true);
        desks_[i]->take_focus();
        Preferences::of_person().set_desk(name);
    }
}

void MainWindow::show_desk(Desk* desk) {
    for (std::size_t i = 0; i < desks_.size(); ++i) {
        if (desks_[i] == desk && stack_->currentIndex() != static_cast<int>(i))
            show_desk(QString::fromLatin1(all_desks()[i].id));
    }
}

QString MainWindow::title_of_desk(const Desk& desk) const {
    for (std::size_t i = 0; i < desks_.size(); ++i) {
        if (desks_[i] == &desk) return title_of(all_desks()[i]);
    }
    return {};
}

void MainWindow::find_anything() {
    auto* finder = new Finder(*this);
    finder->setAttribute(Qt::WA_DeleteOnClose);
    finder->show();
    finder->line().setFocus();
}

void MainWindow::show_first_look(std::optional<RunId> run) {
    auto* look = new FirstLook(*this, run);
    look->setAttribute(Qt::WA_DeleteOnClose);
    look->show();
    look->move(mapToGlobal(QPoint(width() - look->width() - 24, height() - look->height() - 60)));
}

void MainWindow::add_settings(std::vector<Findable>& out) {
    const QString kind = tr("Setting");
    out.push_back(
        {kind, is_garage() ? tr("Light theme") : tr("Garage (dark theme)"), {}, [this] { set_garage(!is_garage()); }});
    out.push_back(
        {kind,
         imperial_units() ? tr("Metric units: km/h, bar, °C, mm") : tr("Imperial units: mph, psi, °F, inches"),
         {},
         [this] { set_imperial(!imperial_units()); }});
    out.push_back({kind, tr("Units by quantity …"), {}, [this] { UnitsDialog(*this).exec(); }});
    out.push_back({kind, tr("First look at the latest run, in steps"), {}, [this] { show_first_look({}); }});
    out.push_back({kind, tr("Library: create, choose, back up, move …"), {}, [this] { show_library_page(); }});
    out.push_back({kind, tr("Another window, its own laps"), {}, [this] { open_another(false); }});
}

QString MainWindow::desk() const {
    return QString::fromLatin1(all_desks()[static_cast<std::size_t>(stack_->currentIndex())].id);
}

MainWindow* MainWindow::open_another(bool same_selection) {
    auto selection = same_selection ? workspace_->selection() : std::make_shared<Selection>(*workspace_->session());
    if (!same_selection) selection->focus().set_state(workspace_->focus().state());
    auto* window = new MainWindow(workspace_->session(), std::move(selection));
    window->setAttribute(Qt::WA_DeleteOnClose);
    window->show_desk(desk());
    window->move(pos() + QPoint(32, 32));
    window->show();
    return window;
}

QStringList MainWindow::arrangement(const MainWindow& first, const MainWindow* without) {
    const auto line = [&](const MainWindow& window) {
        return QStringList{QString::fromLatin1(window.saveGeometry().toBase64()), window.desk(),
                           window.workspace_->selection() == first.workspace_->selection() ? QStringLiteral("linked")
                                                                                           : QStringLiteral("free"),
                           QString::fromStdString(focus_to_json(window.workspace_->focus().state())),
                           window.desk_windows()}
            .join(u'\t');
    };
    QStringList out{QString::fromStdString(first.workspace_->library().folder().string()), line(first)};
    for (QWidget* top : QApplication::topLevelWidgets()) {
        const auto* other = qobject_cast<MainWindow*>(top);
        if (other != nullptr && other != &first && other != without && other->isVisible() &&
            other->workspace_->session() == first.workspace_->session())
            out << line(*other);
    }
    return out;
}

void MainWindow::arrange(const QStringList& windows) {
    // Laps of another library would be others.
    if (windows.value(0) != QString::fromStdString(workspace_->library().folder().string())) return;
    bool is_first = true;
    for (const QString& text : windows.mid(1)) {
        const QStringList parts = text.split(u'\t');
        if (parts.size() < 4) continue;
        MainWindow* window = is_first ? this : open_another(parts[2] == QLatin1String("linked"));
        // A screen that is gone is none of its business: Qt moves it onto one that is there.
        window->restoreGeometry(QByteArray::fromBase64(parts[0].toLatin1()));
        window->show_desk(parts[1]);
        if (!is_first && parts[2] == QLatin1String("free")) {
            if (const auto state = focus_from_json(parts[3].toStdString()))
                window->workspace_->focus().set_state(*state);
        }
        window->open_desk_windows(parts.value(4));
        is_first = false;
    }
}

/// "compare:a|b": what each desk has open beside the window.
QString MainWindow::desk_windows() const {
    QStringList out;
    for (std::size_t i = 0; i < desks_.size(); ++i) {
        const QStringList open = desks_[i]->windows();
        if (!open.isEmpty()) out << QString::fromLatin1(all_desks()[i].id) + u':' + open.join(u'|');
    }
    return out.join(u';');
}

void MainWindow::open_desk_windows(const QString& text) {
    for (const QString& of_desk : text.split(u';', Qt::SkipEmptyParts)) {
        const QString id = of_desk.section(u':', 0, 0);
        for (std::size_t i = 0; i < desks_.size(); ++i) {
            if (id == QLatin1String(all_desks()[i].id))
                desks_[i]->open_windows(of_desk.section(u':', 1).split(u'|', Qt::SkipEmptyParts));
        }
    }
}

MainWindow* MainWindow::use_library(const QString& folder) {
    const QString place = QFileInfo(folder).absoluteFilePath();
    auto library = Library::open(place.toStdString());
    if (!library) {
        workspace_->tell(library.error());
        return nullptr;
    }
    auto* window = new MainWindow(std::move(*library));
    window->setAttribute(Qt::WA_DeleteOnClose);
    window->move(pos());
    window->resize(size());
    window->show();
    Preferences::of_person().use_library(place);
    const auto session = workspace_->session();
    for (QWidget* top : QApplication::topLevelWidgets()) {
        auto* other = qobject_cast<MainWindow*>(top);
        if (other != nullptr && other->workspace_->session() == session) other->close();
    }
    return window;
}

void MainWindow::show_library_page() {
    auto* page = new LibraryPage(*workspace_, this);
    page->setAttribute(Qt::WA_DeleteOnClose);
    connect(page, &LibraryPage::library_asked, this, [this](const QString& folder) { use_library(folder); });
    page->open();
}

void MainWindow::leave() {
    Preferences::of_person().set_windows(arrangement(*this));
    leaving = true;
    QApplication::closeAllWindows();
    leaving = false;
}

void MainWindow::show_view_menu() {
    QMenu menu;
    const QAction* library = menu.addAction(tr("Library …"));
    menu.addSeparator();
    QAction* garage = menu.addAction(tr("Garage (dark)"));
    garage->setCheckable(true);
    garage->setChecked(is_garage());
    QAction* imperial = menu.addAction(tr("mph, psi, °F, inches"));
    imperial->setCheckable(true);
    imperial->setChecked(imperial_units());
    const QAction* units = menu.addAction(tr("Units by quantity …"));
    menu.addSeparator();
    const QAction* first = menu.addAction(tr("First look, in steps …"));
    const QAction* same = menu.addAction(tr("Another window, same laps\tCtrl+N"));
    const QAction* own = menu.addAction(tr("Another window, its own laps"));
    menu.addSeparator();
    const QAction* find = menu.addAction(tr("Find anything …\tCtrl+K"));
    const QAction* shortcuts = menu.addAction(tr("Shortcuts …\tF1"));
    const QAction* chosen = menu.exec(view_button_->mapToGlobal(QPoint(view_button_->width(), 0)));
    if (chosen == garage)
        set_garage(garage->isChecked());
    else if (chosen == imperial)
        set_imperial(imperial->isChecked());
    else if (chosen == same || chosen == own)
        open_another(chosen == same);
    else if (chosen == library)
        show_library_page();
    else if (chosen == units)
        UnitsDialog(*this).exec();
    else if (chosen == first)
        show_first_look({});
    else if (chosen == find)
        find_anything();
    else if (chosen == shortcuts)
        show_shortcuts();
}

void MainWindow::set_garage(bool on) {
    apply_theme(on);
    Preferences::of_person().set_garage(on);
    repaint_all();
}

void MainWindow::set_imperial(bool on) {
    set_imperial_units(on);
    Preferences::of_person().set_imperial(on);
    repaint_all();
}

void MainWindow::repaint_all() {
    for (QWidget* top : QApplication::topLevelWidgets()) {
        if (auto* window = qobject_cast<MainWindow*>(top)) Q_EMIT window->workspace_->comparison().changed();
    }
    for (QWidget* widget : QApplication::allWidgets()) widget->update();
}

void MainWindow::show_shortcuts() {
    ShortcutsDialog(*this).exec();
}

void MainWindow::closeEvent(QCloseEvent* event) {
    for (std::size_t i = 0; i < desks_.size(); ++i) {
        if (desks_[i]->may_close()) continue;
        event->ignore();
        return;
    }
    // The work goes on as long as another window shows the library.
    const auto tops = QApplication::topLevelWidgets();
    const bool last = std::none_of(tops.begin(), tops.end(), [this](const QWidget* top) {
        const auto* other = qobject_cast<const MainWindow*>(top);
        return other != nullptr && other != this && other->isVisible() &&
               other->workspace_->session() == workspace_->session();
    });
    workspace_->selection()->keep_now();
    // A window that is closed is gone the next time too; the last one, and all that go together, come back.
    if (!leaving) {
        const MainWindow* stays = this;
        for (QWidget* top : tops) {
            const auto* other = qobject_cast<const MainWindow*>(top);
            if (other != nullptr && other != this && other->isVisible() &&
                other->workspace_->session() == workspace_->session())
                stays = other;
        }
        Preferences::of_person().set_windows(arrangement(*stays, stays == this ? nullptr : this));
    }
    if (last) workspace_->jobs().cancel_all();
    event->accept();
}

}  // namespace rendak::app
