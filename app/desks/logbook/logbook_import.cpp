// How files come into the Logbook.
#include "app/desks/logbook/channel_sheet_dialog.h"
#include "app/desks/logbook/logbook_desk.h"

#include <QAction>
#include <QCheckBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QTableView>
#include <QTreeView>
#include <QVBoxLayout>

#include "app/desks/logbook/import_facts_dialog.h"
#include "app/desks/logbook/import_preview_dialog.h"
#include "app/desks/logbook/launch_dialog.h"
#include "app/desks/logbook/learn_track_dialog.h"
#include "app/desks/logbook/library_dialogs.h"
#include "app/desks/logbook/library_health.h"
#include "app/text/elided_label.h"
#include "app/text/file_kinds.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "core/track/launch.h"
#include "demo/write_demo.h"

namespace rendak::app {

void LogbookDesk::ask_for_files() {
    const QStringList files =
        QFileDialog::getOpenFileNames(this, tr("Import logged files"), QString(), logged_file_filter());
    if (files.isEmpty()) return;
    auto* dialog = new ImportFactsDialog(workspace_, files.size(), this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this,
            [this, dialog, files] { import_files(files, std::nullopt, std::nullopt, dialog->facts()); });
    dialog->open();
}

void LogbookDesk::import_files(const QStringList& given, std::optional<double> rate_hz,
                               const std::optional<TableMapping>& mapping, const RunFacts& facts) {
    QStringList files;
    for (const QString& file : given) {
        if (file.endsWith(QLatin1String(".zip"), Qt::CaseInsensitive))
            read_bundle(workspace_, this, file);
        else
            files << file;
    }
    if (files.isEmpty()) return;
    struct Done {
        std::vector<ImportResult> results;
        QStringList came_in;
        std::vector<std::pair<std::filesystem::path, Error>> errors;
    };
    std::vector<std::filesystem::path> paths;
    for (const QString& file : files) paths.emplace_back(file.toStdString());
    const auto title = files.size() == 1 ? tr("Importing %1").arg(QFileInfo(files.front()).fileName())
                                         : tr("Importing %1 files").arg(files.size());
    workspace_.jobs().run<Done>(
        title,
        [folder = workspace_.library().folder(), paths, rate_hz, mapping,
         facts](const JobContext& job) -> Result<Done> {
            auto library = Library::open(folder);
            if (!library) return pass_on(library.error());
            Done done;
            ImportOptions options;
            static_cast<RunFacts&>(options) = facts;
            options.read.csv.rate_hz = rate_hz;
            options.read.csv.mapping = mapping;
            for (std::size_t i = 0; i < paths.size(); ++i) {
                const double n = static_cast<double>(paths.size());
                auto result = import_file(**library, paths[i], options,
                                          job.part(static_cast<double>(i) / n, static_cast<double>(i + 1) / n));
                if (result) {
                    done.results.push_back(std::move(*result));
                    done.came_in << QString::fromStdString(paths[i].string());
                } else
                    done.errors.emplace_back(paths[i], result.error());
                if (job.stopped()) break;
            }
            return done;
        },
        [this, files, facts](Result<Done> done) {
            QStringList did_not = files;
            if (done) did_not.removeIf([&](const QString& file) { return done->came_in.contains(file); });
            watched_->settle(done ? done->came_in : QStringList(), did_not);
            if (!done) {
                workspace_.tell(done.error());
                return;
            }
            for (const ImportResult& result : done->results) {
                select_after_refresh_ = result.run;
                workspace_.tell(
                    result.already_there
                        ? tr("Run %1 was in the library already; nothing was imported.").arg(result.run.value)
                        : tr("Imported as run %1.").arg(result.run.value));
            }
            // Recordings that were there stay as they are, unless one was mended.
            const bool mended = std::any_of(done->results.begin(), done->results.end(),
                                            [](const ImportResult& result) { return result.mended; });
            workspace_.library_changed(mended ? Change::recordings : Change::papers);
            // What is wrong with a new run is said at once.
            if (done->results.size() == 1 && !done->results.front().already_there) show_tab(tidy_tab);
            // What cannot be told is asked once; the answer is kept for this car's logger.
            for (const ImportResult& result : done->results) {
                if (result.questions.empty()) continue;
                if (const auto row = workspace_.library().run(result.run)) {
                    auto* sheet = new ChannelSheetDialog(workspace_, *row, this);
                    sheet->setAttribute(Qt::WA_DeleteOnClose);
                    sheet->ask(result.questions.front());
                    sheet->show();
                }
            }
            for (const auto& [file, error] : done->errors) {
                workspace_.tell(error);
                const QString name = QString::fromStdString(file.string());
                if (error.code == ErrorCode::needs_rate) ask_for_rate(name, error, facts);
                if (error.code == ErrorCode::needs_answer) import_with_a_look(name, error.questions, facts);
            }
        });
}

void LogbookDesk::ask_for_rate(const QString& file, const Error& error, const RunFacts& facts) {
    auto* dialog = new QInputDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(tr("Rows per second"));
    dialog->setInputMode(QInputDialog::DoubleInput);
    dialog->setLabelText(QString());
    dialog->findChild<QLabel*>()->setTextFormat(Qt::PlainText);  // before it holds a name from the file
    dialog->setLabelText(QString::fromStdString(error.message) + tr("\n\nRows per second (Hz):"));
    dialog->setDoubleRange(0.001, 1e6);
    dialog->setDoubleDecimals(3);
    dialog->setDoubleValue(20);
    connect(dialog, &QInputDialog::doubleValueSelected, this,
            [this, file, facts](double rate) { import_files({file}, rate, std::nullopt, facts); });
    dialog->open();
}

void LogbookDesk::import_with_a_look(const QString& file, const std::vector<Question>& questions,
                                     const RunFacts& facts) {
    const auto preview = preview_table(file.toStdString(), workspace_.shown(workspace_.library().aliases()));
    if (!preview) return workspace_.tell(preview.error());
    auto* dialog = new ImportPreviewDialog(
        *preview, table_mapping_from_json(workspace_.shown(workspace_.library().table_mapping(preview->key))),
        questions, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog, file, key = preview->key, facts] {
        const TableMapping mapping = dialog->mapping();
        const std::string before = workspace_.shown(workspace_.library().table_mapping(key));
        workspace_.edit(
            tr("reading of these columns"),
            [this, key, text = to_json(mapping)] { return workspace_.library().set_table_mapping(key, text); },
            [this, key, before] { return workspace_.library().set_table_mapping(key, before); }, Change::papers);
        import_files({file}, mapping.rate_hz, mapping, facts);
    });
    dialog->open();
}

}  // namespace rendak::app
