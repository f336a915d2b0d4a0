#include "app/desks/compare/work_panel.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/plot/view_out.h"
#include "app/text/figure_text.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int place_role = Qt::UserRole, finding_role = Qt::UserRole + 1;

QTreeWidget* list(const QString& name, const QStringList& heads) {
    auto* out = new QTreeWidget;
    out->setAccessibleName(name);
    out->setHeaderLabels(heads);
    out->setRootIsDecorated(true);
    out->setIndentation(12);
    out->setWordWrap(true);
    out->setFont(small_font());
    out->setUniformRowHeights(false);
    out->header()->setStretchLastSection(false);
    out->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int i = 1; i < static_cast<int>(heads.size()); ++i)
        out->header()->setSectionResizeMode(i, QHeaderView::ResizeToContents);
    return out;
}

QString seconds(const std::optional<double>& value) {
    return value ? QString::number(*value, 'f', 2).replace(u'-', QChar(0x2212)) : QStringLiteral("–");
}

}  // namespace

WorkPanel::WorkPanel(Story& story, WorkBook& book, QWidget* parent) : QWidget(parent), story_(story), book_(book) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    head_ = new PlainLabel;
    head_->setWordWrap(true);
    head_->setFont(small_font());
    column->addWidget(head_);
    places_ = list(tr("What to work on"), {tr("Where"), tr("to A"), tr("to best"), tr("to usual")});
    places_->headerItem()->setToolTip(1, tr("Seconds to A"));
    places_->headerItem()->setToolTip(2, tr("Seconds of the mean to the best of these laps in the corner"));
    places_->headerItem()->setToolTip(3, tr("Seconds of the mean to the middle lap: what odd laps cost"));
    column->addWidget(places_, 3);
    work_on_ = new QPushButton(tr("Work on it"));
    work_on_->setToolTip(
        tr("The chosen sentence becomes a work item of B's driver, which later runs are held against"));
    put_away_ = new QPushButton(tr("Put away"));
    put_away_->setToolTip(tr("The chosen work item is met, or given up"));
    auto* row = new QHBoxLayout;
    row->addWidget(work_on_);
    row->addStretch(1);
    row->addWidget(put_away_);
    column->addLayout(row);
    items_ = list(tr("What is being worked on"), {tr("Being worked on"), tr("Value"), tr("Laps")});
    column->addWidget(items_, 2);
    connect(&story_, &Story::changed, this, &WorkPanel::fill_places);
    connect(&book_, &WorkBook::changed, this, &WorkPanel::fill_items);
    connect(places_, &QTreeWidget::currentItemChanged, this, &WorkPanel::enable);
    connect(items_, &QTreeWidget::currentItemChanged, this, &WorkPanel::enable);
    connect(places_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* item) { go_to(item); });
    connect(places_, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) { go_to(item); });
    connect(work_on_, &QPushButton::clicked, this, [this] {
        if (const LapFinding* finding = chosen_finding()) book_.work_on(*finding, told_);
    });
    connect(put_away_, &QPushButton::clicked, this, [this] {
        const QTreeWidgetItem* item = items_->currentItem();
        const qlonglong id = item == nullptr ? 0 : item->data(0, place_role).toLongLong();
        for (const WorkProgress& it : book_.items()) {
            if (it.item.id == id) return book_.put_away(it.item);
        }
    });
    fill_items();
    enable();
}

void WorkPanel::showEvent(QShowEvent* event) {
    story_.wanted_by(this);
    book_.wanted_by(this);
    fill_places();
    QWidget::showEvent(event);
}

void WorkPanel::fill_places() {
    told_ = story_.told();
    places_->clear();
    head_->setText(told_ ? story_.head_text() : story_.message());
    if (told_ != nullptr && told_->work.empty())
        head_->setText(story_.head_text() + u'\n' +
                       tr("There is next to nothing to be found: no corner loses 0.02 s."));
    fill_items();
    if (told_ == nullptr) return;
    for (std::size_t i = 0; i < told_->work.size(); ++i) {
        const WorkPlace& place = told_->work[i];
        QString name = place.corner == 0 ? tr("Everywhere: %1").arg(QString::fromStdString(place.name).toLower())
                                         : QString::fromStdString(place.name);
        if (!place.of_driver) name += tr(" (car)");
        auto* row = new QTreeWidgetItem(places_, {name, signed_number(place.to_reference_s, 2),
                                                  seconds(place.to_best_s), seconds(place.to_usual_s)});
        row->setData(0, place_role, static_cast<int>(i));
        row->setData(0, finding_role, place.findings.empty() ? -1 : 0);
        for (int c = 1; c < 4; ++c) row->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        if (!place.sure) {
            // What could as well be chance is written faintly.
            for (int c = 0; c < 4; ++c) row->setForeground(c, theme().mute);
            if (place.laps_needed > 0)
                row->setToolTip(0,
                                tr("Within what laps scatter: about %1 laps a side would tell").arg(place.laps_needed));
            else
                row->setToolTip(0, tr("Of so few laps nobody can say whether it is chance"));
        }
        for (std::size_t k = 0; k < place.findings.size(); ++k) {
            const QString words =
                QString::fromStdString(finding_words(place.findings[k], told_->track(), story_.words(false)));
            // Its corner stands above it.
            auto* line = new QTreeWidgetItem(row, {words.section(QStringLiteral(": "), 1)});
            line->setToolTip(0, words + u'\n' + QString::fromStdString(finding_causes(place.findings[k])));
            line->setFirstColumnSpanned(true);
            line->setData(0, place_role, static_cast<int>(i));
            line->setData(0, finding_role, static_cast<int>(k));
        }
        row->setExpanded(i < 3);
    }
    enable();
}

void WorkPanel::fill_items() {
    items_->clear();
    QString driver;
    QTreeWidgetItem* of_driver = nullptr;
    for (const WorkProgress& it : book_.items()) {
        const QString name = it.item.driver.empty() ? tr("no driver") : QString::fromStdString(it.item.driver);
        if (of_driver == nullptr || name != driver) {
            driver = name;
            of_driver = new QTreeWidgetItem(items_, {driver});
            of_driver->setFirstColumnSpanned(true);
            of_driver->setExpanded(true);
        }
        const CornerFigure* figure = find_corner_figure(it.item.figure);
        if (figure == nullptr) continue;
        const QString corner = it.corner.empty() ? tr("no such corner any more") : QString::fromStdString(it.corner);
        auto* row = new QTreeWidgetItem(of_driver, {corner + QStringLiteral(": ") + WorkBook::text_of(it)});
        row->setFirstColumnSpanned(true);
        row->setData(0, place_role, static_cast<qlonglong>(it.item.id));
        row->setToolTip(0, QString::fromStdString(it.item.note));
        const auto line = [&](const QString& of, double value, std::size_t laps) {
            auto* out = new QTreeWidgetItem(row, {of, figure_text(*figure, value) + u' ' + figure_unit(*figure),
                                                  laps > 0 ? QString::number(laps) : QString()});
            out->setData(0, place_role, static_cast<qlonglong>(it.item.id));
            for (int c = 1; c < 3; ++c) out->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        };
        line(tr("found at"), it.item.from, 0);
        for (const WorkProgress::Step& step : it.steps) line(QString::fromStdString(step.name), step.value, step.laps);
        if (it.steps.empty()) {
            auto* none = new QTreeWidgetItem(row, {tr("no later run of this driver yet")});
            none->setFirstColumnSpanned(true);
            none->setData(0, place_role, static_cast<qlonglong>(it.item.id));
        }
        row->setExpanded(true);
    }
    enable();
}

const LapFinding* WorkPanel::chosen_finding() const {
    const QTreeWidgetItem* item = places_->currentItem();
    if (item == nullptr || told_ == nullptr) return nullptr;
    const auto place = static_cast<std::size_t>(item->data(0, place_role).toInt());
    const int finding = item->data(0, finding_role).toInt();
    if (place >= told_->work.size() || finding < 0 || told_->work[place].corner == 0) return nullptr;
    return &told_->work[place].findings[static_cast<std::size_t>(finding)];
}

void WorkPanel::enable() {
    work_on_->setEnabled(chosen_finding() != nullptr);
    const QTreeWidgetItem* item = items_->currentItem();
    put_away_->setEnabled(item != nullptr && item->data(0, place_role).toLongLong() > 0);
}

void WorkPanel::go_to(const QTreeWidgetItem* item) {
    if (told_ == nullptr || item == nullptr) return;
    const auto place = static_cast<std::size_t>(item->data(0, place_role).toInt());
    if (place >= told_->work.size() || told_->work[place].corner == 0) return;
    const LapFinding* finding = chosen_finding();
    const Interval range = told_->work[place].range_m;
    story_.show(range, finding != nullptr ? finding->at_m : range.begin);
}

QString WorkPanel::data_text() const {
    QString out = tr("Where,To A [s],To best [s],To usual [s],Sure,Whose,What") + u'\n';
    if (told_ == nullptr) return out;
    for (const WorkPlace& place : told_->work) {
        QStringList what;
        for (const LapFinding& it : place.findings)
            what << QString::fromStdString(finding_words(it, told_->track(), story_.words(false)));
        out += QStringList{csv_cell(QString::fromStdString(place.name)),
                           QString::number(place.to_reference_s, 'f', 3),
                           place.to_best_s ? QString::number(*place.to_best_s, 'f', 3) : QString(),
                           place.to_usual_s ? QString::number(*place.to_usual_s, 'f', 3) : QString(),
                           place.sure ? tr("yes") : tr("no"),
                           place.of_driver ? tr("driver") : tr("car"),
                           csv_cell(what.join(u' '))}
                   .join(u',') +
               u'\n';
    }
    return out;
}

ViewOut WorkPanel::out(const QString& name) {
    QStringList lines{head_->text()};
    const auto add = [&](const QTreeWidgetItem* item, int depth, const auto& self) -> void {
        QString line(4 * depth, u' ');
        for (int c = 0; c < item->columnCount(); ++c)
            line += (c > 0 && !item->text(c).isEmpty() ? QStringLiteral("   ") : QString()) + item->text(c);
        lines << line;
        for (int k = 0; k < item->childCount(); ++k) self(item->child(k), depth + 1, self);
    };
    for (const QTreeWidget* tree : {places_, items_}) {
        QString head;
        for (int c = 0; c < tree->columnCount(); ++c)
            head += (c > 0 ? QStringLiteral(", ") : QString()) + tree->headerItem()->text(c);
        lines << QString() << head;
        for (int k = 0; k < tree->topLevelItemCount(); ++k) add(tree->topLevelItem(k), 0, add);
    }
    const int row_px = QFontMetrics(small_font()).height() + 3;
    return {name, QSize(std::max(560, width()), row_px * static_cast<int>(lines.size()) + 12),
            [lines, row_px](QPainter& painter, QSize size) {
                painter.fillRect(QRect(QPoint(), size), theme().panel);
                painter.setFont(small_font());
                painter.setPen(theme().ink);
                int y = 6;
                for (const QString& line : lines) {
                    painter.drawText(QRect(6, y, size.width() - 12, row_px), Qt::AlignLeft | Qt::AlignVCenter, line);
                    y += row_px;
                }
            },
            [this] { return at_hand(data_text()); }};
}

}  // namespace rendak::app
