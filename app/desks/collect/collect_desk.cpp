#include "app/desks/collect/collect_desk.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDateTime>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QFrame>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QProgressBar>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>

#include <cmath>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "demo/stand_in.h"

namespace rendak::app {
namespace {

double computer_now() {
    return static_cast<double>(QDateTime::currentMSecsSinceEpoch()) / 1000;
}

QString clock_text(double unix_s) {
    return QDateTime::fromMSecsSinceEpoch(static_cast<qint64>(unix_s * 1000), Qt::UTC)
        .toString(QStringLiteral("yyyy-MM-dd HH:mm:ss"));
}

QString recordings_text(qsizetype count) {
    return counted(count, CollectDesk::tr("recording"), CollectDesk::tr("recordings"));
}

/// "Run 2, 8 laps": the name and the flying laps that count.
Result<QString> run_text(const Library& library, const RunRow& run) {
    const auto laps = library.laps(run.id);
    if (!laps) return pass_on(laps.error());
    int flying = 0;
    for (const Lap& lap : *laps) flying += lap.counts();
    const QString name = QString::fromStdString(run.name);
    return flying == 0 ? name
                       : name + QStringLiteral(", ") + counted(flying, CollectDesk::tr("lap"), CollectDesk::tr("laps"));
}

/// What the library knows of each recording.
Result<void> fill_in(const Library& library, std::vector<RecordingTable::Row>& rows) {
    for (auto& row : rows) {
        const auto state = state_in_library(library, row.file);
        if (!state) return pass_on(state.error());
        row.state = *state;
        if (!state->run) continue;
        const auto run = library.run(*state->run);
        if (!run) return pass_on(run.error());
        auto text = run_text(library, *run);
        if (!text) return pass_on(text.error());
        row.run_name = std::move(*text);
    }
    return {};
}

}  // namespace

struct CollectDesk::Seen {
    QString address;
    LoggerState state;
    std::vector<RecordingTable::Row> rows;
    double computer_unix_s = 0;
};

CollectDesk::CollectDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent),
      practice_(workspace),
      reading_(workspace.jobs()),
      listing_(workspace.jobs()),
      filming_(workspace.jobs()),
      adding_(workspace.jobs()) {
    model_ = new RecordingTable(this);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    column->setSpacing(8);
    column->addWidget(build_address());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(8);
    table_ = new QTableView;
    table_->setModel(model_);
    table_->setAccessibleName(tr("Recordings on the logger"));
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setShowGrid(false);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(26);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    connect(table_, &QTableView::activated, this, [this](const QModelIndex& index) {
        model_->tick(index.row(),
                     model_->data(model_->index(index.row(), RecordingTable::chosen), Qt::CheckStateRole).toInt() !=
                         Qt::Checked);
    });
    middle->addWidget(table_, 1);
    middle->addWidget(build_filing());
    column->addLayout(middle, 1);
    column->addWidget(build_films());
    column->addWidget(build_foot());
    connect(model_, &RecordingTable::ticks_changed, this, &CollectDesk::refresh_buttons);
    connect(&workspace_, &Workspace::runs_changed, this, &CollectDesk::show_states);
    connect(&practice_, &PracticeLogger::ready, this, [this](const QString& url) {
        practice_button_->setText(tr("Stop the practice logger"));
        address_->setEditText(url);
        connect_to(url);
    });
    connect(&practice_, &PracticeLogger::stopped, this,
            [this] { practice_button_->setText(tr("Start the practice logger")); });
    clock_timer_.setInterval(500);
    connect(&clock_timer_, &QTimer::timeout, this, &CollectDesk::show_clocks);
    clock_timer_.start();
    progress_timer_.setInterval(100);
    connect(&progress_timer_, &QTimer::timeout, this, &CollectDesk::show_download);
    show_clocks();
    refresh_buttons();
    refresh_check_list();
}
void CollectDesk::take_focus() {
    table_->setFocus();
}

QString CollectDesk::state_text() const {
    return state_->text();
}
QString CollectDesk::check_text() const {
    return check_list_->text();
}

void CollectDesk::connect_to(const QString& address) {
    if (address.isEmpty()) return workspace_.tell(tr("Enter the logger's address, or choose the folder of the card."));
    connected_to_ = address;
    read_again();
}

void CollectDesk::read_again() {
    state_->setText(tr("Reading %1 …").arg(connected_to_));
    reading_.run<Seen>(
        tr("Reading the list of recordings"),
        [address = connected_to_, folder = workspace_.library().folder()](const JobContext& job) -> Result<Seen> {
            Seen seen;
            seen.address = address;
            auto link = open_logger(address.toStdString());
            if (!link) return pass_on(link.error());
            auto state = (*link)->state(job);
            if (!state) return pass_on(state.error());
            seen.state = std::move(*state);
            seen.computer_unix_s = computer_now();
            auto files = (*link)->list(job);
            if (!files) return pass_on(files.error());
            for (LoggedFile& file : *files) seen.rows.push_back({std::move(file), {}, {}});
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            if (auto known = fill_in(**library, seen.rows); !known) return pass_on(known.error());
            return seen;
        },
        [this](Result<Seen> seen) {
            if (!seen) {
                logger_.reset();
                model_->show({});
                show_films({});
                state_->setText(QString::fromStdString(seen.error().message));
                workspace_.tell(seen.error());
                show_clocks();
                refresh_buttons();
                refresh_check_list();
                return;
            }
            show_seen(*seen);
            look_for_films();
        });
}

void CollectDesk::show_seen(const Seen& seen) {
    logger_ = seen.state;
    if (seen.state.clock_unix_s) logger_minus_computer_s_ = *seen.state.clock_unix_s - seen.computer_unix_s;
    if (!shift_->isChecked()) shift_minutes_->setValue(-logger_minus_computer_s_ / 60);
    QStringList known{seen.address};
    for (int i = 0; i < address_->count() && known.size() < 8; ++i) {
        if (address_->itemText(i) != seen.address) known << address_->itemText(i);
    }
    address_->clear();
    address_->addItems(known);
    if (const auto kept = workspace_.library().set_setting("collect_addresses", known.join(u'\n').toStdString()); !kept)
        workspace_.tell(kept.error());
    model_->show(seen.rows);
    for (int column = 0; column < RecordingTable::in_library; ++column) {
        table_->resizeColumnToContents(column);
        table_->setColumnWidth(column, table_->columnWidth(column) + 8);
    }
    state_->setText(tr("%1: %2, %3 of %4 free")
                        .arg(QString::fromStdString(seen.state.device),
                             recordings_text(static_cast<qsizetype>(seen.rows.size())),
                             size_text(static_cast<double>(seen.state.free_bytes)),
                             size_text(static_cast<double>(seen.state.capacity_bytes))));
    QStringList warnings;
    for (const std::string& warning : logger_warnings(seen.state, seen.computer_unix_s))
        warnings << QString::fromStdString(warning);
    warnings_->setText(warnings.join(u' '));
    warnings_->setStyleSheet(QStringLiteral("color: %1; font-weight: bold").arg(theme().lost.name()));
    warnings_->setVisible(!warnings.isEmpty());
    show_clocks();
    refresh_check_list();
}

void CollectDesk::show_states() {
    if (model_->rows().empty() || reading_.running()) return;  // the list comes with what is known of it
    listing_.run<std::vector<RecordingTable::Row>>(
        tr("Looking recordings up"),
        [folder = workspace_.library().folder(),
         rows = model_->rows()](const JobContext&) mutable -> Result<std::vector<RecordingTable::Row>> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            if (auto known = fill_in(**library, rows); !known) return pass_on(known.error());
            return rows;
        },
        [this](Result<std::vector<RecordingTable::Row>> rows) {
            if (!rows) return workspace_.tell(rows.error());
            model_->show(std::move(*rows));
            refresh_buttons();
            refresh_check_list();
        });
}

void CollectDesk::show_clocks() {
    const bool has_clock = logger_ && logger_->clock_unix_s;
    set_clock_->setVisible(has_clock);
    const double now = computer_now();
    QString text = tr("This computer %1 UTC").arg(clock_text(now));
    if (has_clock) {
        text += tr("   Logger %1").arg(clock_text(now + logger_minus_computer_s_));
        if (std::abs(logger_minus_computer_s_) >= 2)
            text += QStringLiteral("  (%1 s)").arg(signed_number(logger_minus_computer_s_, 0));
    }
    clocks_->setText(text);
}

void CollectDesk::set_clock() {
    workspace_.jobs().run<double>(
        tr("Setting the logger's clock"),
        [address = connected_to_](const JobContext& job) -> Result<double> {
            auto link = open_logger(address.toStdString());
            if (!link) return pass_on(link.error());
            const auto set = (*link)->set_clock(computer_now(), job);
            if (!set) return pass_on(set.error());
            return *set - computer_now();
        },
        [this](Result<double> difference) {
            if (!difference) return workspace_.tell(difference.error());
            // The recordings that are on it were still made with the old clock.
            if (!shift_->isChecked() && std::abs(logger_minus_computer_s_) >= 2) {
                shift_minutes_->setValue(-logger_minus_computer_s_ / 60);
                workspace_.tell(
                    tr("The logger's clock is set. Recordings made before carry the old time: tick \"move all dates\" "
                       "to correct them."));
            } else {
                workspace_.tell(
                    tr("The logger's clock is set and agrees within %1 s.").arg(std::abs(*difference), 0, 'f', 1));
            }
            logger_minus_computer_s_ = *difference;
            if (logger_) logger_->clock_unix_s = computer_now() + *difference;
            QStringList warnings;
            if (logger_) {
                for (const std::string& warning : logger_warnings(*logger_, computer_now()))
                    warnings << QString::fromStdString(warning);
            }
            warnings_->setText(warnings.join(u' '));
            warnings_->setVisible(!warnings.isEmpty());
            show_clocks();
            refresh_check_list();
        });
}

double CollectDesk::clock_shift_s() const {
    return shift_->isChecked() ? shift_minutes_->value() * 60 : 0;
}

ImportOptions CollectDesk::filing() const {
    ImportOptions out;
    out.event = event_->text().trimmed().toStdString();
    out.session = session_->text().trimmed().toStdString();
    out.driver = driver_->text().trimmed().toStdString();
    out.car = car_->text().trimmed().toStdString();
    out.tyre_set = tyre_set_->text().trimmed().toStdString();
    out.weather = weather_->text().trimmed().toStdString();
    return out;
}

void CollectDesk::download() {
    const auto files = model_->ticked();
    if (files.empty() || downloading_) return;
    for (const auto& [key, edit] : {std::pair{"event", event_},
                                    {"session", session_},
                                    {"driver", driver_},
                                    {"car", car_},
                                    {"tyre_set", tyre_set_},
                                    {"weather", weather_}}) {
        if (const auto kept =
                workspace_.library().set_setting(std::string("collect_") + key, edit->text().toStdString());
            !kept)
            workspace_.tell(kept.error());
    }
    CollectOptions options;
    options.filing = filing();
    options.clock_shift_s = clock_shift_s();
    options.fetch.day = day_text(computer_now());
    downloading_ = true;
    fraction_ = std::make_shared<std::atomic<double>>(0);
    arrived_bytes_ = std::make_shared<std::atomic<std::uint64_t>>(0);
    options.fetch.arrived = [arrived = arrived_bytes_](std::uint64_t bytes) { *arrived += bytes; };
    total_bytes_ = 0;
    for (const LoggedFile& file : files) total_bytes_ += static_cast<double>(file.size);
    began_s_ = computer_now();
    progress_timer_.start();
    refresh_buttons();
    download_job_ = workspace_.jobs().run<std::vector<Collected>>(
        tr("Downloading"),
        [folder = workspace_.library().folder(), address = connected_to_, files, options,
         fraction = fraction_](const JobContext& job) -> Result<std::vector<Collected>> {
            auto library = Library::open(folder);
            if (!library) return pass_on(library.error());
            auto link = open_logger(address.toStdString());
            if (!link) return pass_on(link.error());
            JobContext inner = job;
            inner.progress = [&](double x) {
                fraction->store(x);
                job.report(x);
            };
            return collect(**library, **link, files, options, inner);
        },
        [this](Result<std::vector<Collected>> done) {
            downloading_ = false;
            downloaded_ = true;
            progress_timer_.stop();
            if (!done) {
                workspace_.tell(done.error());
            } else {
                int in = 0;
                std::optional<Error> problem;
                for (const Collected& one : *done) {
                    in += one.imported.has_value();
                    if (one.imported) latest_ = one.imported->run;
                    if (one.error && (!problem || problem->code == ErrorCode::cancelled)) problem = one.error;
                }
                workspace_.tell(tr("%1 downloaded, verified and filed.").arg(recordings_text(in)));
                if (problem) workspace_.tell(*problem);
            }
            // Opened recordings stay as they are, unless one was mended.
            const bool mended = done && std::any_of(done->begin(), done->end(), [](const Collected& one) {
                                    return one.imported && one.imported->mended;
                                });
            workspace_.library_changed(mended ? Change::recordings : Change::papers);
            first_look_->setVisible(latest_.has_value());
            refresh_buttons();
            refresh_check_list();
        });
}

void CollectDesk::show_download() {
    const double x = fraction_ ? fraction_->load() : 0;
    progress_->setValue(static_cast<int>(1000 * x));
    const double seconds = std::max(computer_now() - began_s_, 0.1);
    const auto arrived = static_cast<double>(arrived_bytes_ ? arrived_bytes_->load() : 0);
    progress_text_->setText(
        tr("%1 of %2 arrived, %3/s").arg(size_text(arrived), size_text(total_bytes_), size_text(arrived / seconds)));
}

void CollectDesk::refresh_buttons() {
    const auto ticked = model_->ticked();
    double bytes = 0;
    for (const LoggedFile& file : ticked) bytes += static_cast<double>(file.size);
    int verified = 0;
    int erasable = 0;
    for (const auto& row : model_->rows()) {
        verified += row.state.verified;
        erasable += row.state.verified && std::any_of(ticked.begin(), ticked.end(), [&](const LoggedFile& file) {
                        return file.sha256 == row.file.sha256;
                    });
    }
    download_->setVisible(!downloading_);
    download_->setEnabled(!ticked.empty() && logger_.has_value());
    download_->setText(ticked.empty() ? tr("Download")
                                      : tr("Download %1").arg(recordings_text(static_cast<qsizetype>(ticked.size()))));
    erase_->setEnabled(erasable > 0 && !downloading_);
    erase_->setText(erasable > 0 ? tr("Erase %1 …").arg(recordings_text(erasable)) : tr("Erase …"));
    for (QWidget* widget : std::initializer_list<QWidget*>{progress_, progress_text_, cancel_})
        widget->setVisible(downloading_);
    if (model_->rows().empty())
        summary_->setText(logger_ ? tr("There is no recording on it.") : QString());
    else if (ticked.empty())
        summary_->setText(tr("Nothing is ticked; %1 verified in the library.").arg(recordings_text(verified)));
    else
        summary_->setText(tr("%1 ticked, %2").arg(ticked.size()).arg(size_text(bytes)));
}

void CollectDesk::refresh_check_list() {
    QStringList lines;
    const auto line = [&](bool fine, const QString& text) {
        lines << (fine ? QStringLiteral("✓ ") : QStringLiteral("○ ")) + text;
    };
    int fresh = 0;
    for (const auto& row : model_->rows()) fresh += !row.state.run;
    if (!logger_) {
        line(false, tr("Download the last run"));
    } else {
        line(fresh == 0, fresh == 0 ? tr("All recordings are in the library")
                                    : tr("%1 not yet in the library").arg(recordings_text(fresh)));
        if (logger_->clock_unix_s) {
            const bool right = std::abs(logger_minus_computer_s_) < 2;
            line(right, right ? tr("The logger's clock is right") : tr("Set the logger's clock"));
        }
        const bool roomy = logger_->capacity_bytes == 0 || static_cast<double>(logger_->free_bytes) >
                                                               0.15 * static_cast<double>(logger_->capacity_bytes);
        line(roomy, roomy ? tr("Room on the card") : tr("Erase: the card is nearly full"));
    }
    // What only a person can see is no line to be ticked.
    check_list_->setText(lines.join(u'\n') + tr("\nBy hand: card back in the car, spare card at hand."));
}

void CollectDesk::erase(bool asked_already) {
    std::vector<LoggedFile> files;
    QStringList names;
    const auto wanted = model_->ticked();
    for (const auto& row : model_->rows()) {
        const bool ticked = std::any_of(wanted.begin(), wanted.end(),
                                        [&](const LoggedFile& file) { return file.sha256 == row.file.sha256; });
        if (!row.state.verified || !ticked) continue;
        files.push_back(row.file);
        names << tr("%1 – %2, %3")
                     .arg(QString::fromStdString(row.file.name), row.run_name,
                          size_text(static_cast<double>(row.file.size)));
    }
    if (files.empty())
        return workspace_.tell(tr("Nothing that is ticked is verified in the library, so nothing may be erased."));
    if (!asked_already) {
        QMessageBox ask(QMessageBox::Warning, tr("Erase from the logger"),
                        tr("%1 will be erased from the logger. Each is in the library, and its original is kept and "
                           "will be checked again first.")
                            .arg(recordings_text(static_cast<qsizetype>(files.size()))),
                        QMessageBox::Cancel, this);
        ask.setTextFormat(Qt::PlainText);
        ask.setInformativeText(names.mid(0, 12).join(u'\n') +
                               (names.size() > 12 ? tr("\n… and %1 more").arg(names.size() - 12) : QString()));
        const auto* yes = ask.addButton(tr("Erase"), QMessageBox::DestructiveRole);
        ask.exec();
        if (ask.clickedButton() != yes) return;
    }
    workspace_.jobs().run<Erased>(
        tr("Erasing and checking"),
        [folder = workspace_.library().folder(), address = connected_to_,
         files](const JobContext& job) -> Result<Erased> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            auto link = open_logger(address.toStdString());
            if (!link) return pass_on(link.error());
            return erase_verified(**library, **link, files, job);
        },
        [this](Result<Erased> erased) {
            if (!erased) {
                workspace_.tell(erased.error());
            } else if (erased->kept.empty()) {
                workspace_.tell(tr("%1 erased; the logger no longer lists them.")
                                    .arg(recordings_text(static_cast<qsizetype>(erased->gone.size()))));
            } else {
                const auto& [file, reason] = erased->kept.front();
                workspace_.tell(Error{
                    ErrorCode::io,
                    file.name + " was not erased: " + reason +
                        (erased->kept.size() > 1 ? ", and " + std::to_string(erased->kept.size() - 1) + " more." : "."),
                    ""});
            }
            read_again();
        });
}

void CollectDesk::show_pictures(PictureBook& book) {
    const auto card = book.demo_files() / "card";
    if (!std::filesystem::exists(card)) return;
    demo::StandIn logger({.clock_offset_s = -754});
    if (!logger.start(card)) return;
    connect_to(QString::fromStdString(logger.url()));
    book.take(QStringLiteral("collect"));
}

}  // namespace rendak::app
