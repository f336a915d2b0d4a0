#include "app/desks/logbook/channel_sheet_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "app/theme/theme.h"
#include "core/intake/channel_edits.h"
#include "core/signal/quantity.h"

namespace rendak::app {
namespace {

enum SheetColumn { name, taken_for, why, rate, unit, low, mean, high, gone, faults, sheet_columns };

QString sheet_number(double value) {
    if (!std::isfinite(value)) return QStringLiteral("–");
    return QString::number(value, 'g', 5).replace(u'-', QChar(0x2212));
}

/// A figure of a channel in people's units, where its quantity is known.
QString figure(const ChannelLine& line, double value) {
    // Seven decimals of a degree are for tables of positions, not for a look.
    if (line.quantity.empty() || !std::isfinite(value) || line.unit == "deg") return sheet_number(value);
    return shown(line.quantity).text(value);
}

}  // namespace

ChannelSheetDialog::ChannelSheetDialog(Workspace& workspace, const RunRow& run, QWidget* parent)
    : QDialog(parent), workspace_(workspace), run_(run), looking_(workspace.jobs()), measuring_(workspace.jobs()) {
    setObjectName(QStringLiteral("channel-sheet"));
    setWindowTitle(tr("Channels of %1").arg(text_of(run.name)));
    resize(1080, 640);
    auto* column = new QVBoxLayout(this);
    auto* top = new QHBoxLayout;
    hint_ = new PlainLabel(tr("The recording stays as it was logged; what is said here is kept beside it."));
    hint_->setWordWrap(true);
    top->addWidget(hint_, 1);
    search_ = new QLineEdit;
    search_->setPlaceholderText(tr("Search"));
    search_->setClearButtonEnabled(true);
    search_->setAccessibleName(tr("Search channels"));
    search_->setMaximumWidth(200);
    connect(search_, &QLineEdit::textChanged, this, &ChannelSheetDialog::filter);
    top->addWidget(search_);
    column->addLayout(top);

    table_ = new QTableWidget(0, sheet_columns);
    table_->setObjectName(QStringLiteral("channel-table"));
    table_->setHorizontalHeaderLabels({tr("Channel"), tr("Taken for"), tr("Why"), tr("Rate"), tr("Unit"), tr("Low"),
                                       tr("Mean"), tr("High"), tr("Missing"), tr("Faults")});
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(26);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setAccessibleName(tr("Channels of the run"));
    constexpr int widths[] = {170, 140, 190, 66, 58, 74, 74, 74, 66};
    for (int c = 0; c < static_cast<int>(std::size(widths)); ++c)
        table_->horizontalHeader()->resizeSection(c, widths[c]);
    connect(table_, &QTableWidget::itemSelectionChanged, this, &ChannelSheetDialog::show_selected);
    column->addWidget(table_, 1);

    title_ = new ElidedLabel;
    title_->setFont(number_font());
    column->addWidget(title_);
    auto* form = new QHBoxLayout;
    form->addWidget(new PlainLabel(tr("Taken for")));
    quantity_ = new QComboBox;
    quantity_->setObjectName(QStringLiteral("channel-quantity"));
    quantity_->setAccessibleName(tr("What the channel is taken for"));
    quantity_->addItem(tr("nothing known"), QString());
    for (const Quantity& it : all_quantities()) quantity_->addItem(text_of(it.label), text_of(it.id));
    form->addWidget(quantity_);
    form->addWidget(new PlainLabel(tr("logged in")));
    unit_ = new QLineEdit;
    unit_->setObjectName(QStringLiteral("channel-unit"));
    unit_->setAccessibleName(tr("Unit of the logged values"));
    unit_->setMaximumWidth(80);
    form->addWidget(unit_);
    const auto spin = [&](const QString& label, const QString& object) {
        form->addWidget(new PlainLabel(label));
        auto* box = new QDoubleSpinBox;
        box->setObjectName(object);
        box->setAccessibleName(label);
        box->setRange(-1e9, 1e9);
        box->setDecimals(5);
        box->setMaximumWidth(120);
        form->addWidget(box);
        return box;
    };
    form->addStretch();
    column->addLayout(form);
    form = new QHBoxLayout;
    scale_ = spin(tr("times"), QStringLiteral("channel-scale"));
    turn_ = new QPushButton(tr("Turn sign"));
    connect(turn_, &QPushButton::clicked, this, [this] { scale_->setValue(-scale_->value()); });
    form->addWidget(turn_);
    offset_ = spin(tr("plus"), QStringLiteral("channel-offset"));
    zero_ = new QPushButton(tr("Zero at rest"));
    zero_->setObjectName(QStringLiteral("channel-zero"));
    zero_->setToolTip(tr("Makes it zero over the longest stretch at which the car stands"));
    connect(zero_, &QPushButton::clicked, this, &ChannelSheetDialog::take_zero);
    form->addWidget(zero_);
    form->addStretch();
    column->addLayout(form);

    auto* foot = new QHBoxLayout;
    QStringList whose;
    if (!run.car.empty()) whose << tr("car %1").arg(text_of(run.car));
    if (!run.logger.empty()) whose << tr("logger %1").arg(text_of(run.logger));
    // Names can be long: they stand in the tooltip.
    from_now_on_ = new QCheckBox(tr("For its car and logger from this run on, and for imports to come"));
    from_now_on_->setToolTip(whose.isEmpty() ? tr("This run names neither car nor logger: give it a car first.")
                                             : whose.join(tr(", ")));
    from_now_on_->setEnabled(!whose.isEmpty());
    foot->addWidget(from_now_on_, 1);
    as_logged_ = new QPushButton(tr("As logged"));
    as_logged_->setToolTip(tr("Takes back all that was said of this channel"));
    connect(as_logged_, &QPushButton::clicked, this, [this] {
        if (const ChannelLine* line = selected()) apply(ChannelEdit{line->name});
    });
    foot->addWidget(as_logged_);
    apply_ = new QPushButton(tr("Apply"));
    apply_->setObjectName(QStringLiteral("channel-apply"));
    apply_->setProperty("primary", true);
    connect(apply_, &QPushButton::clicked, this, [this] { apply(edit_of_form()); });
    foot->addWidget(apply_);
    auto* close = new QPushButton(tr("Close"));
    connect(close, &QPushButton::clicked, this, &QDialog::reject);
    foot->addWidget(close);
    column->addLayout(foot);
    for (QPushButton* button : findChildren<QPushButton*>()) button->setAutoDefault(false);
    connect(workspace_.session().get(), &Session::changed, this, [this](Change change) {
        if (change == Change::recordings) look();
    });
    show_selected();
    look();
}

void ChannelSheetDialog::ask(const ChannelRoles::Question& question) {
    QStringList names;
    for (const std::string& channel : question.channels) names << text_of(channel);
    const Quantity* quantity = find_quantity(question.quantity);
    hint_->setText(tr("Which channel is the %1? It cannot be told from what they hold: %2. The first is used until you "
                      "choose: select it, take it for %3, and apply.")
                       .arg(text_of(quantity->label).toLower(), names.join(tr(", ")), text_of(quantity->label)));
    if (from_now_on_->isEnabled()) from_now_on_->setChecked(true);
    select(question.channels.front());
}

void ChannelSheetDialog::select(const std::string& channel) {
    wanted_ = channel;
    for (int row = 0; row < table_->rowCount(); ++row) {
        if (lines_[static_cast<std::size_t>(row)].name == channel) table_->selectRow(row);
    }
}

void ChannelSheetDialog::look() {
    if (const ChannelLine* line = selected()) wanted_ = line->name;
    looking_.run<std::vector<ChannelLine>>(
        tr("Reading the channels"),
        [folder = workspace_.library().folder(),
         run = run_.id](const JobContext& job) -> Result<std::vector<ChannelLine>> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return channel_sheet(**library, run, job);
        },
        [this](Result<std::vector<ChannelLine>> lines) {
            if (!lines) return hint_->setText(text_of(lines.error().text()));
            lines_ = std::move(*lines);
            fill();
        });
}

void ChannelSheetDialog::fill() {
    table_->setRowCount(static_cast<int>(lines_.size()));
    for (int row = 0; row < table_->rowCount(); ++row) {
        const ChannelLine& line = lines_[static_cast<std::size_t>(row)];
        const Quantity* quantity = find_quantity(line.quantity);
        QStringList wrong;
        if (line.unused) wrong << tr("left out");
        if (line.flipped) wrong << tr("sign turned round");
        for (const std::string& fault : line.faults) wrong << text_of(fault);
        const QString shown_unit = line.quantity.empty() ? text_of(line.unit) : shown(line.quantity).unit;
        const QString cells[sheet_columns] = {
            text_of(line.name),
            quantity != nullptr ? text_of(quantity->label) : tr("–"),
            text_of(line.why),
            with_unit(QString::number(line.rate_hz, 'g', 4), QStringLiteral("Hz")),
            shown_unit,
            figure(line, line.low),
            figure(line, line.mean),
            figure(line, line.high),
            line.missing_share > 0 ? with_unit(QString::number(100 * line.missing_share, 'f', 1), QStringLiteral("%"))
                                   : QString(),
            wrong.join(tr("; "))};
        for (int c = 0; c < sheet_columns; ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            if (c >= rate && c <= gone && c != unit) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            if (c == taken_for && line.quantity.empty()) item->setForeground(theme().mute);
            if (c == why && line.edit) item->setFont(small_font(true));
            item->setToolTip(cells[c]);
            table_->setItem(row, c, item);
        }
    }
    filter(search_->text());
    if (!wanted_.empty()) select(wanted_);
    if (table_->currentRow() < 0 && table_->rowCount() > 0) table_->selectRow(0);
    show_selected();
}

void ChannelSheetDialog::filter(const QString& text) {
    for (int row = 0; row < table_->rowCount(); ++row) {
        const bool fits = table_->item(row, name)->text().contains(text, Qt::CaseInsensitive) ||
                          table_->item(row, taken_for)->text().contains(text, Qt::CaseInsensitive);
        table_->setRowHidden(row, !fits);
    }
}

const ChannelLine* ChannelSheetDialog::selected() const {
    const auto rows = table_->selectionModel()->selectedRows();
    if (rows.isEmpty() || rows.front().row() >= static_cast<int>(lines_.size())) return nullptr;
    return &lines_[static_cast<std::size_t>(rows.front().row())];
}

void ChannelSheetDialog::show_selected() {
    const ChannelLine* line = selected();
    for (QWidget* widget : std::initializer_list<QWidget*>{quantity_, unit_, scale_, offset_, turn_, zero_, apply_})
        widget->setEnabled(line != nullptr);
    as_logged_->setEnabled(line != nullptr && line->edit.has_value());
    title_->setText(line == nullptr ? tr("Select a channel to put it right.") : text_of(line->name));
    if (line == nullptr) return;
    quantity_->setCurrentIndex(std::max(0, quantity_->findData(text_of(line->quantity))));
    const ChannelEdit edit = line->edit.value_or(ChannelEdit{line->name});
    unit_->setText(text_of(edit.unit.empty() ? line->source_unit : edit.unit));
    unit_->setPlaceholderText(text_of(line->unit));
    scale_->setValue(edit.scale);
    offset_->setValue(edit.offset);
    offset_->setSuffix(line->unit.empty() ? QString() : QChar(0x2009) + text_of(line->unit));
}

ChannelEdit ChannelSheetDialog::edit_of_form() const {
    const ChannelLine* line = selected();
    if (line == nullptr) return {};
    ChannelEdit out = line->edit.value_or(ChannelEdit{line->name});
    out.source.clear();
    const std::string chosen = quantity_->currentData().toString().toStdString();
    if (chosen != line->quantity) out.quantity = chosen;
    const std::string typed = unit_->text().trimmed().toStdString();
    const std::string before = out.unit.empty() ? line->source_unit : out.unit;
    if (typed != before) out.unit = typed == line->source_unit ? std::string() : typed;
    out.scale = scale_->value();
    out.offset = offset_->value();
    return out;
}

void ChannelSheetDialog::apply(const ChannelEdit& edit) {
    const QString what = tr("channel %1").arg(text_of(edit.channel));
    wanted_ = edit.channel;
    const RunId run = run_.id;
    if (from_now_on_->isChecked()) {
        const auto before = std::make_shared<EditedRuns>();
        workspace_.edit_in_background(
            what,
            [run, edit, before](Library& library, const JobContext& job) -> Result<void> {
                auto done = edit_channels_from_now_on(library, run, {edit}, job);
                if (!done) return pass_on(done.error());
                *before = std::move(*done);
                return {};
            },
            [before](Library& library, const JobContext&) { return take_back(library, *before); });
        return;
    }
    const auto before = std::make_shared<EditedChannels>();
    workspace_.edit_in_background(
        what,
        [run, edit, before](Library& library, const JobContext& job) -> Result<void> {
            auto done = edit_channels(library, run, {edit}, job);
            if (!done) return pass_on(done.error());
            *before = std::move(*done);
            return {};
        },
        [run, before](Library& library, const JobContext&) { return take_back(library, run, *before); });
}

void ChannelSheetDialog::take_zero() {
    const ChannelLine* line = selected();
    if (line == nullptr) return;
    measuring_.run<double>(
        tr("Looking for a stretch at rest"),
        [folder = workspace_.library().folder(), run = run_.id,
         channel = line->name](const JobContext&) -> Result<double> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return zero_at_rest(**library, run, channel);
        },
        [this](Result<double> offset) {
            if (!offset) return hint_->setText(text_of(offset.error().text()));
            offset_->setValue(offset_->value() + *offset);
        });
}

}  // namespace rendak::app
