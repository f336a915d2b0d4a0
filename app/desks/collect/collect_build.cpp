// How Collect is laid out.
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

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "demo/stand_in.h"

namespace rendak::app {
namespace {

QFrame* panel() {
    auto* frame = new QFrame;
    frame->setProperty("role", QStringLiteral("panel"));
    return frame;
}

}  // namespace

QWidget* CollectDesk::build_address() {
    auto* frame = panel();
    auto* column = new QVBoxLayout(frame);
    column->setContentsMargins(12, 8, 12, 8);
    auto* row = new QHBoxLayout;
    address_ = new QComboBox;
    address_->setEditable(true);
    address_->setAccessibleName(tr("Address of the logger, or folder of the card"));
    address_->lineEdit()->setPlaceholderText(tr("http://… of the logger, or the folder of a card"));
    for (const QString& known :
         QString::fromStdString(workspace_.shown(workspace_.library().setting("collect_addresses")))
             .split(u'\n', Qt::SkipEmptyParts))
        address_->addItem(known);
    address_->setCurrentIndex(address_->count() > 0 ? 0 : -1);
    connect_ = new QPushButton(tr("Connect"));
    connect_->setObjectName(QStringLiteral("connect"));
    connect_->setProperty("primary", true);
    connect(connect_, &QPushButton::clicked, this, [this] { connect_to(address_->currentText().trimmed()); });
    connect(address_->lineEdit(), &QLineEdit::returnPressed, this,
            [this] { connect_to(address_->currentText().trimmed()); });
    auto* card = new QPushButton(tr("Card or folder …"));
    connect(card, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder of the card"));
        if (folder.isEmpty()) return;
        address_->setEditText(folder);
        connect_to(folder);
    });
    practice_button_ = new QPushButton(tr("Start the practice logger"));
    practice_button_->setObjectName(QStringLiteral("practice"));
    practice_button_->setToolTip(
        tr("A stand-in on this computer that behaves like the car's logger, with the demo's Saturday on it"));
    connect(practice_button_, &QPushButton::clicked, this,
            [this] { practice_.running() ? practice_.stop() : practice_.start(); });
    row->addWidget(address_, 1);
    row->addWidget(connect_);
    row->addWidget(card);
    row->addWidget(practice_button_);
    column->addLayout(row);
    auto* second = new QHBoxLayout;
    state_ =
        new PlainLabel(tr("Not connected. Switch the logger on and connect, choose the card's folder, or practise."));
    state_->setObjectName(QStringLiteral("logger-state"));
    state_->setWordWrap(true);
    clocks_ = new PlainLabel;
    clocks_->setObjectName(QStringLiteral("clocks"));
    set_clock_ = new QPushButton(tr("Set the logger's clock"));
    set_clock_->setObjectName(QStringLiteral("set-clock"));
    set_clock_->setToolTip(
        tr("First look whether this computer's clock is right; the logger takes it over and is read back"));
    connect(set_clock_, &QPushButton::clicked, this, &CollectDesk::set_clock);
    second->addWidget(state_, 1);
    second->addWidget(clocks_);
    second->addWidget(set_clock_);
    column->addLayout(second);
    warnings_ = new PlainLabel;
    warnings_->setObjectName(QStringLiteral("warnings"));
    warnings_->setWordWrap(true);
    warnings_->hide();
    column->addWidget(warnings_);
    return frame;
}

QWidget* CollectDesk::build_filing() {
    auto* frame = panel();
    frame->setFixedWidth(300);
    auto* column = new QVBoxLayout(frame);
    column->setContentsMargins(12, 8, 12, 8);
    auto* title = new PlainLabel(tr("For all that is downloaded"));
    title->setFont(number_font());
    column->addWidget(title);
    auto* hint = new PlainLabel(tr("Every field can be left empty and filled in later."));
    hint->setProperty("role", QStringLiteral("mute"));
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* form = new QFormLayout;
    form->setVerticalSpacing(6);
    const auto line = [&](const QString& label, const char* key, const QString& empty) {
        auto* edit = new QLineEdit(
            QString::fromStdString(workspace_.shown(workspace_.library().setting(std::string("collect_") + key))));
        edit->setAccessibleName(label);
        edit->setObjectName(QStringLiteral("file-") + QString::fromLatin1(key));
        edit->setPlaceholderText(empty);
        form->addRow(label, edit);
        return edit;
    };
    event_ = line(tr("Event"), "event", tr("track and date"));
    session_ = line(tr("Session"), "session", tr("Session 1"));
    driver_ = line(tr("Driver"), "driver", {});
    car_ = line(tr("Car"), "car", {});
    tyre_set_ = line(tr("Tyre set"), "tyre_set", {});
    weather_ = line(tr("Weather"), "weather", {});
    column->addLayout(form);
    shift_ = new QCheckBox(tr("The logger's clock was wrong: move all dates"));
    shift_->setObjectName(QStringLiteral("shift-dates"));
    shift_minutes_ = new QDoubleSpinBox;
    shift_minutes_->setRange(-60.0 * 24 * 366 * 40, 60.0 * 24 * 366 * 40);
    shift_minutes_->setDecimals(1);
    shift_minutes_->setSuffix(tr(" min"));
    shift_minutes_->setEnabled(false);
    shift_minutes_->setAccessibleName(tr("Minutes by which the dates are moved"));
    connect(shift_, &QCheckBox::toggled, this, [this](bool on) {
        shift_minutes_->setEnabled(on);
        if (on && shift_minutes_->value() == 0) shift_minutes_->setValue(-logger_minus_computer_s_ / 60);
        model_->set_clock_shift(clock_shift_s());
    });
    connect(shift_minutes_, &QDoubleSpinBox::valueChanged, this, [this] { model_->set_clock_shift(clock_shift_s()); });
    column->addSpacing(4);
    column->addWidget(shift_);
    column->addWidget(shift_minutes_);
    column->addStretch();
    check_list_ = new PlainLabel;
    check_list_->setObjectName(QStringLiteral("check-list"));
    check_list_->setWordWrap(true);
    auto* check_title = new PlainLabel(tr("Before the car goes out"));
    check_title->setFont(number_font());
    column->addWidget(check_title);
    column->addWidget(check_list_);
    return frame;
}

QWidget* CollectDesk::build_films() {
    films_line_ = panel();
    films_line_->setObjectName(QStringLiteral("films-on-card"));
    auto* row = new QHBoxLayout(films_line_);
    row->setContentsMargins(12, 6, 12, 6);
    films_text_ = new PlainLabel;
    films_text_->setObjectName(QStringLiteral("films-text"));
    row->addWidget(films_text_, 1);
    films_add_ = new QPushButton(tr("Add films …"));
    films_add_->setObjectName(QStringLiteral("films-add"));
    films_add_->setToolTip(tr("To the library, as one camera's; then put each in step with its run on Video"));
    connect(films_add_, &QPushButton::clicked, this, &CollectDesk::ask_films);
    row->addWidget(films_add_);
    films_line_->hide();
    return films_line_;
}

QWidget* CollectDesk::build_foot() {
    auto* frame = panel();
    auto* row = new QHBoxLayout(frame);
    row->setContentsMargins(12, 8, 12, 8);
    summary_ = new PlainLabel;
    summary_->setObjectName(QStringLiteral("summary"));
    progress_ = new QProgressBar;
    progress_->setRange(0, 1000);
    progress_->setTextVisible(false);
    progress_->setMinimumWidth(160);
    progress_text_ = new PlainLabel;
    first_look_ = new QPushButton(tr("First look"));
    first_look_->setObjectName(QStringLiteral("first-look"));
    first_look_->setToolTip(tr("Clean laps, best against next best, where, why"));
    first_look_->hide();
    connect(first_look_, &QPushButton::clicked, this, [this] {
        if (latest_) Q_EMIT workspace_.first_look_asked(*latest_);
    });
    cancel_ = new QPushButton(tr("Cancel"));
    connect(cancel_, &QPushButton::clicked, this, [this] { download_job_.cancel(); });
    download_ = new QPushButton(tr("Download"));
    download_->setObjectName(QStringLiteral("download"));
    download_->setProperty("primary", true);
    connect(download_, &QPushButton::clicked, this, &CollectDesk::download);
    erase_ = new QPushButton(tr("Erase …"));
    erase_->setObjectName(QStringLiteral("erase"));
    erase_->setToolTip(tr("Erase the ticked recordings that are verified in the library"));
    connect(erase_, &QPushButton::clicked, this, [this] { erase(); });
    row->addWidget(summary_, 1);
    row->addWidget(progress_text_);
    row->addWidget(progress_);
    row->addWidget(first_look_);
    row->addWidget(cancel_);
    row->addWidget(download_);
    row->addWidget(erase_);
    return frame;
}

}  // namespace rendak::app
