#include "app/shell/library_page.h"

#include <QDialogButtonBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QListWidget>
#include <QMessageBox>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/desks/logbook/best_laps_dialog.h"
#include "app/desks/logbook/library_health.h"
#include "app/session/preferences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/intake/check_library.h"
#include "core/library/backup.h"

namespace rendak::app {
namespace {

QString path_text(const std::filesystem::path& path) {
    return QString::fromStdString(path.string());
}

QString library_size_text(double bytes) {
    const double megabytes = bytes / 1e6;
    return megabytes < 1000 ? QStringLiteral("%1 MB").arg(megabytes, 0, 'f', megabytes < 10 ? 1 : 0)
                            : QStringLiteral("%1 GB").arg(megabytes / 1000, 0, 'f', 1);
}

struct Content {
    std::size_t runs = 0, events = 0;
    double bytes = 0, free = 0;
};

}  // namespace

LibraryPage::LibraryPage(Workspace& workspace, QWidget* parent) : QDialog(parent), workspace_(workspace) {
    setObjectName(QStringLiteral("library-page"));
    setWindowTitle(tr("Library"));
    resize(620, 460);
    auto* column = new QVBoxLayout(this);
    column->setSpacing(8);
    auto* title = new PlainLabel(tr("This library"));
    title->setFont(headline_font());
    column->addWidget(title);
    place_ = new PlainLabel(path_text(workspace.library().folder()));
    place_->setWordWrap(true);
    place_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    content_ = new PlainLabel;
    content_->setWordWrap(true);
    column->addWidget(place_);
    column->addWidget(content_);
    auto* buttons = new QGridLayout;
    const auto add = [&](int row, int at, const QString& text, const char* name, const QString& tip, auto act) {
        auto* button = new QPushButton(text);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, act);
        buttons->addWidget(button, row, at);
    };
    add(0, 0, tr("Best-ever laps …"), "best-laps", tr("Fastest laps by track, car and driver in all events"),
        [this] { show_best_laps(workspace_, this); });
    add(0, 1, tr("Back up …"), "back-up", tr("Copies it into another folder while you work; again: only what is new"),
        [this] { back_up_to(ask_for_folder(tr("Folder for the backup: new, empty, or an earlier backup"))); });
    add(0, 2, tr("Check …"), "check", tr("Reads everything and says what is damaged or missing"),
        [this] { check_library_of(workspace_, this); });
    add(1, 0, tr("Move …"), "move", tr("To another folder or disk"),
        [this] { move_to(ask_for_folder(tr("New or empty folder that the library moves to"))); });
    add(1, 1, tr("Open another …"), "open-other", tr("A library in another folder"),
        [this] { open_folder(ask_for_folder(tr("Folder of a library"))); });
    add(1, 2, tr("New …"), "new-library", tr("An empty library in a new or empty folder"), [this] {
        const QString folder = ask_for_folder(tr("New or empty folder for a library"));
        if (folder.isEmpty()) return;
        if (!QDir(folder).isEmpty())
            return workspace_.tell(tr("%1 is not empty. Choose a new or an empty folder.").arg(folder));
        Q_EMIT library_asked(folder);
    });
    column->addLayout(buttons);
    auto* before = new PlainLabel(tr("Used before"));
    before->setFont(headline_font());
    column->addWidget(before);
    recent_ = new QListWidget;
    recent_->setAccessibleName(tr("Libraries used before"));
    recent_->setToolTip(tr("Double-click or Enter opens it"));
    connect(recent_, &QListWidget::itemActivated, this,
            [this](const QListWidgetItem* item) { open_folder(item->data(Qt::UserRole).toString()); });
    column->addWidget(recent_, 1);
    auto* close = new QDialogButtonBox(QDialogButtonBox::Close);
    connect(close, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(close);
    fill();
}

void LibraryPage::fill() {
    recent_->clear();
    const QString here = path_text(workspace_.library().folder());
    for (const QString& folder : Preferences::of_person().recent_libraries()) {
        if (QDir(folder) == QDir(here)) continue;
        const bool there = QFileInfo::exists(folder + QStringLiteral("/library.sqlite"));
        auto* item = new QListWidgetItem(there ? folder : tr("%1 (not there now)").arg(folder), recent_);
        item->setData(Qt::UserRole, folder);
        if (!there) item->setFlags(Qt::NoItemFlags);
    }
    if (recent_->count() == 0) {
        auto* none = new QListWidgetItem(tr("No other library was used yet."), recent_);
        none->setFlags(Qt::NoItemFlags);
    }
    content_->setText(tr("Looking what is in it …"));
    workspace_.jobs().run<Content>(
        tr("Looking into the library"),
        [folder = workspace_.library().folder()](const JobContext& job) -> Result<Content> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            const auto runs = (*library)->runs();
            const auto events = (*library)->events();
            if (!runs) return pass_on(runs.error());
            if (!events) return pass_on(events.error());
            Content out{runs->size(), events->size(), 0, 0};
            std::error_code code;
            std::filesystem::recursive_directory_iterator at(folder, code), end;
            for (; !code && at != end && !job.stopped(); at.increment(code)) {
                std::error_code gone;
                if (at->is_regular_file(gone)) out.bytes += static_cast<double>(at->file_size(gone));
            }
            const auto space = std::filesystem::space(folder, code);
            if (!code) out.free = static_cast<double>(space.available);
            return out;
        },
        [page = QPointer<LibraryPage>(this)](Result<Content> content) {
            if (!page || !content) return;
            page->content_->setText(
                tr("%1 in %2, %3; %4 are free on the disk.")
                    .arg(counted(static_cast<qsizetype>(content->runs), tr("run"), tr("runs")),
                         counted(static_cast<qsizetype>(content->events), tr("event"), tr("events")),
                         library_size_text(content->bytes), library_size_text(content->free)));
        });
}

QString LibraryPage::ask_for_folder(const QString& title) {
    return QFileDialog::getExistingDirectory(this, title);
}

void LibraryPage::open_folder(const QString& folder) {
    if (folder.isEmpty()) return;
    if (!QFileInfo::exists(folder + QStringLiteral("/library.sqlite")))
        return workspace_.tell(tr("There is no library in %1. \"New\" makes one.").arg(folder));
    Q_EMIT library_asked(folder);
}

void LibraryPage::back_up_to(const QString& folder) {
    if (folder.isEmpty()) return;
    workspace_.jobs().run<BackupDone>(
        tr("Backing up the library"),
        [from = workspace_.library().folder(), to = folder.toStdString()](const JobContext& job) -> Result<BackupDone> {
            auto library = Library::open(from, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return back_up(**library, to, job);
        },
        [&workspace = workspace_, folder](Result<BackupDone> done) {
            if (!done) return workspace.tell(done.error());
            workspace.tell(tr("The backup in %1 is complete: %2 copied, %3 were there.")
                               .arg(folder, counted(static_cast<qsizetype>(done->copied), tr("file"), tr("files")))
                               .arg(done->already_there));
        });
}

void LibraryPage::move_to(const QString& folder) {
    if (folder.isEmpty()) return;
    if (!QDir(folder).isEmpty())
        return workspace_.tell(tr("%1 is not empty. Choose a new or an empty folder.").arg(folder));
    struct Moved {
        bool whole = false;
    };
    workspace_.jobs().run<Moved>(
        tr("Moving the library"),
        [from = workspace_.library().folder(), to = folder.toStdString()](const JobContext& job) -> Result<Moved> {
            auto library = Library::open(from, Library::Open::existing);
            if (!library) return pass_on(library.error());
            if (auto copied = back_up(**library, to, job.part(0, 0.6)); !copied) return pass_on(copied.error());
            auto copy = Library::open(to, Library::Open::existing);
            if (!copy) return pass_on(copy.error());
            const auto check = check_library(**copy, job.part(0.6, 1));
            if (!check) return pass_on(check.error());
            return Moved{check->all_well()};
        },
        [page = QPointer<LibraryPage>(this), &workspace = workspace_, folder](Result<Moved> moved) {
            if (!moved) return workspace.tell(moved.error());
            if (!page) return;
            if (!moved->whole)
                workspace.tell(tr("The copy in %1 has the damage that this library has; the old files stay. Check the "
                                  "library to see it.")
                                   .arg(folder));
            const QString old = path_text(workspace.library().folder());
            bool remove = false;
            if (moved->whole) {
                QMessageBox ask(QMessageBox::Question, tr("Move the library"), QString(), QMessageBox::NoButton, page);
                ask.setTextFormat(Qt::PlainText);
                ask.setText(
                    tr("The library is in %1 now, and was found whole. Remove the old files in %2?").arg(folder, old));
                const auto* yes = ask.addButton(tr("Remove the old files"), QMessageBox::DestructiveRole);
                ask.addButton(tr("Keep them"), QMessageBox::RejectRole);
                ask.exec();
                remove = ask.clickedButton() == yes;
            }
            Q_EMIT page->library_asked(folder);
            if (!remove) return;
            // Open files live on until they are closed: nothing that is looked at is pulled away.
            if (const auto removed = remove_library(old.toStdString()); !removed) workspace.tell(removed.error());
            Preferences::of_person().forget_library(old);
        });
}

}  // namespace rendak::app
