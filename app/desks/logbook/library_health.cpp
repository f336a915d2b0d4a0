#include "app/desks/logbook/library_health.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "core/intake/import.h"

namespace rendak::app {
namespace {}  // namespace

UnfiledBar::UnfiledBar(Workspace& workspace, QWidget* parent) : QFrame(parent), workspace_(workspace) {
    setObjectName(QStringLiteral("unfiled"));
    setFrameShape(QFrame::NoFrame);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 6, 12, 6);
    text_ = new PlainLabel;
    text_->setWordWrap(true);
    file_ = new QPushButton(tr("File them again"));
    file_->setObjectName(QStringLiteral("file-again"));
    file_->setProperty("primary", true);
    file_->setToolTip(
        tr("Each becomes a run again: its laps are cut where the track is known, its facts are to be "
           "entered anew"));
    auto* later = new QPushButton(tr("Not now"));
    row->addWidget(text_, 1);
    row->addWidget(file_);
    row->addWidget(later);
    connect(file_, &QPushButton::clicked, this, &UnfiledBar::file_them);
    connect(later, &QPushButton::clicked, this, [this] {
        put_off_ = true;
        hide();
    });
    hide();
}

void UnfiledBar::look() {
    workspace_.jobs().run<std::size_t>(
        tr("Looking for recordings that are not in the catalogue"),
        [folder = workspace_.library().folder()](const JobContext&) -> Result<std::size_t> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            const auto unfiled = (*library)->unfiled_recordings();
            if (!unfiled) return pass_on(unfiled.error());
            return unfiled->size();
        },
        [this](const Result<std::size_t>& count) {
            if (!count) return;  // a catalogue that cannot be read is told by the lists
            text_->setText(tr("%1 not in the catalogue: it was lost, or an older one was put back. Nothing is taken "
                              "away; they can be filed again.")
                               .arg(counted(static_cast<qsizetype>(*count), tr("recording is"), tr("recordings are"))));
            setVisible(*count > 0 && !put_off_);
        });
}

void UnfiledBar::file_them() {
    struct Filed {
        int runs = 0;
        QStringList problems;
    };
    file_->setEnabled(false);
    workspace_.jobs().run<Filed>(
        tr("Filing recordings again"),
        [folder = workspace_.library().folder()](const JobContext& job) -> Result<Filed> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            const auto unfiled = (*library)->unfiled_recordings();
            if (!unfiled) return pass_on(unfiled.error());
            Filed out;
            for (std::size_t i = 0; i < unfiled->size() && !job.stopped(); ++i) {
                const double n = static_cast<double>(unfiled->size());
                const auto filed = file_again(**library, (*unfiled)[i],
                                              job.part(static_cast<double>(i) / n, static_cast<double>(i + 1) / n));
                if (filed)
                    ++out.runs;
                else
                    out.problems << text_of(filed.error().text());
            }
            return out;
        },
        [this](const Result<Filed>& filed) {
            file_->setEnabled(true);
            workspace_.library_changed();
            if (!filed) return workspace_.tell(filed.error());
            if (filed->problems.isEmpty())
                workspace_.tell(
                    tr("%1 filed again.").arg(counted(filed->runs, tr("recording is"), tr("recordings are"))));
            else
                workspace_.tell(Error{ErrorCode::bad_input, filed->problems.join(u' ').toStdString(), {}});
            look();
        });
}

QStringList sentences_of(const LibraryCheck& check) {
    QStringList out;
    for (const std::string& line : check.catalogue)
        out << UnfiledBar::tr(
                   "The catalogue is damaged (%1). Restore library.sqlite from a backup, or put it away and "
                   "file the recordings again.")
                   .arg(text_of(line));
    for (const auto& it : check.damaged) out << text_of(it.name) + QStringLiteral(": ") + text_of(it.what);
    for (const auto& lines : {check.tracks, check.originals})
        for (const std::string& line : lines) out << text_of(line);
    for (const auto& file : check.unfiled)
        out << UnfiledBar::tr("%1 is not in the catalogue; the Logbook offers to file it again.")
                   .arg(text_of(file.filename().string()));
    if (!check.unfinished.empty())
        out << UnfiledBar::tr(
                   "%1 for the rest: connect to the logger and fetch again. After a month they are taken away.")
                   .arg(counted(static_cast<qsizetype>(check.unfinished.size()), UnfiledBar::tr("download waits"),
                                UnfiledBar::tr("downloads wait")));
    return out;
}

void check_library_of(Workspace& workspace, QWidget* parent) {
    workspace.jobs().run<LibraryCheck>(
        UnfiledBar::tr("Checking the library"),
        [folder = workspace.library().folder()](const JobContext& job) -> Result<LibraryCheck> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return check_library(**library, job);
        },
        [&workspace, parent](const Result<LibraryCheck>& check) {
            if (!check) return workspace.tell(check.error());
            workspace.library_changed();
            const QStringList lines = sentences_of(*check);
            if (lines.isEmpty())
                return workspace.tell(UnfiledBar::tr("All is well: %1 and what belongs to them are whole.")
                                          .arg(counted(static_cast<qsizetype>(check->recordings),
                                                       UnfiledBar::tr("recording"), UnfiledBar::tr("recordings"))));
            auto* dialog = new QDialog(parent);
            dialog->setObjectName(QStringLiteral("library-check"));
            dialog->setAttribute(Qt::WA_DeleteOnClose);
            dialog->setWindowTitle(UnfiledBar::tr("What the check found"));
            dialog->resize(680, 360);
            auto* column = new QVBoxLayout(dialog);
            auto* list = new QListWidget;
            list->setWordWrap(true);
            list->setSpacing(4);
            list->setSelectionMode(QAbstractItemView::NoSelection);
            list->setFocusPolicy(Qt::NoFocus);  // sentences to be read, not to be picked
            list->setAccessibleName(UnfiledBar::tr("What the check found"));
            list->addItems(lines);
            column->addWidget(list, 1);
            auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
            QObject::connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::reject);
            column->addWidget(buttons);
            dialog->open();
        });
}

}  // namespace rendak::app
