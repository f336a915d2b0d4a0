#include "app/desks/stint/lap_figure_model.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/analysis/section_table.h"
#include "core/analysis/set_difference.h"
#include "core/recording/csv_writer.h"

namespace rendak::app {
QString FigureLook::text(double si) const {
    if (!std::isfinite(si)) return QStringLiteral("–");
    return is_time ? lap_time(si) : how.text(si);
}

QString FigureLook::change_text(double si, int decimals) const {
    return signed_number(how.difference_from_si(si), decimals);
}

FigureLook look_of(const rendak::LapTable::Column& column) {
    const LapColumn& it = column.column;
    FigureLook out;
    if (it.channel == "lap_time") {
        out.label = LapFigureModel::tr("Lap time");
        out.how = {out.label, QStringLiteral("s"), {}, 1, 0, 3};
        out.is_time = true;
        return out;
    }
    const Shown channel = shown(it.channel);
    const LapStatistic statistic = it.statistic.value_or(LapStatistic::mean);
    out.how = channel;
    out.label = channel.label;
    // What a running total has come to is the figure itself.
    if (statistic != LapStatistic::end) {
        const std::string_view word = lap_statistic_name(statistic);
        out.label += u' ' + QString::fromUtf8(word.data(), static_cast<qsizetype>(word.size()));
    }
    if (statistic == LapStatistic::above || statistic == LapStatistic::below) {
        out.label += u' ' + QString::number(it.limit, 'g', 6) + u' ' + QString::fromStdString(it.limit_unit);
        out.how = {out.label, QStringLiteral("%"), {}, 0.01, 0, 1};
    } else if (statistic == LapStatistic::touches) {
        out.how = {out.label, {}, {}, 1, 0, 0};
    } else if (statistic == LapStatistic::at) {
        out.label += u' ' + distance_text(it.place_m);
    }
    if (it.corner > 0) out.label += LapFigureModel::tr(" in %1").arg(it.corner);
    return out;
}

void LapFigureModel::set_table(std::shared_ptr<const rendak::LapTable> table, std::vector<RunInTable> runs) {
    beginResetModel();
    table_ = std::move(table);
    runs_ = std::move(runs);
    looks_.clear();
    for (std::size_t c = 0; table_ != nullptr && c < table_->columns.size(); ++c)
        looks_.push_back(look_of(table_->columns[c]));
    arrange();
    endResetModel();
}

void LapFigureModel::set_group(Group group) {
    beginResetModel();
    group_ = group;
    arrange();
    endResetModel();
}

const RunInTable* LapFigureModel::run_of(RunId id) const {
    const auto found = std::find_if(runs_.begin(), runs_.end(), [&](const RunInTable& it) { return it.id == id; });
    return found == runs_.end() ? nullptr : &*found;
}

void LapFigureModel::arrange() {
    rows_.clear();
    if (table_ == nullptr) return;
    // Groups in the order of the runs.
    std::vector<std::pair<QString, Row>> groups;
    const auto key_of = [&](const RunInTable& run) {
        return group_ == Group::drivers    ? (run.driver.isEmpty() ? tr("(no driver)") : run.driver)
               : group_ == Group::sessions ? (run.session.isEmpty() ? tr("(no session)") : run.session)
                                           : run.title;
    };
    for (const RunInTable& run : runs_) {
        Row* row = nullptr;
        for (auto& [key, it] : groups) {
            if (key == key_of(run)) row = &it;
        }
        if (row == nullptr) {
            groups.emplace_back(key_of(run), Row{Row::Kind::mean});
            row = &groups.back().second;
            const QString letter = group_ == Group::runs && run.slot >= 0 ? slot_letter(run.slot) + u' ' : QString();
            row->label = letter + key_of(run) + tr(", mean");
            row->run = run.id;
        }
        for (std::size_t r = 0; r < table_->rows.size(); ++r) {
            if (table_->rows[r].ref.run == run.id && table_->rows[r].counts) row->members.push_back(r);
        }
    }
    for (const RunInTable& run : runs_) {
        if (group_ != Group::runs) break;
        const bool any = std::any_of(table_->trends.begin(), table_->trends.end(),
                                     [&](const rendak::LapTable::Trend& it) { return it.run == run.id; });
        const QString letter = run.slot >= 0 ? slot_letter(run.slot) : run.title;
        if (any) rows_.push_back({Row::Kind::trend, letter + tr(", a lap"), run.id});
    }
    for (auto& [key, row] : groups) {
        if (!row.members.empty()) rows_.push_back(std::move(row));
    }
    for (std::size_t r = 0; r < table_->rows.size(); ++r) {
        const RunInTable* run = run_of(table_->rows[r].ref.run);
        if (run == nullptr) continue;
        const QString who = run->slot >= 0 ? slot_letter(run->slot) : run->title;
        rows_.push_back({Row::Kind::lap, who + u' ' + QString::number(table_->rows[r].ref.lap), run->id, r});
    }
}

const rendak::LapTable::Row* LapFigureModel::lap_at(int row) const {
    if (row < 0 || row >= static_cast<int>(rows_.size())) return nullptr;
    const Row& it = rows_[static_cast<std::size_t>(row)];
    return it.kind == Row::Kind::lap ? &table_->rows[it.lap] : nullptr;
}

const LapTrend* LapFigureModel::trend(RunId run, std::size_t column) const {
    for (const rendak::LapTable::Trend& it : table_->trends) {
        if (it.run == run && it.column == column) return &it.line;
    }
    return nullptr;
}

double LapFigureModel::value(const Row& row, std::size_t column) const {
    if (row.kind == Row::Kind::lap) return table_->rows[row.lap].figures[column].value;
    if (row.kind == Row::Kind::trend) {
        const LapTrend* line = trend(row.run, column);
        return line == nullptr ? std::nan("") : line->per_lap;
    }
    const std::vector<double> values = members_of(row, column);
    return values.empty() ? std::nan("") : mean_value(values);
}

std::vector<double> LapFigureModel::members_of(const Row& row, std::size_t column) const {
    std::vector<double> out;
    for (const std::size_t r : row.members) {
        const double it = table_->rows[r].figures[column].value;
        if (std::isfinite(it)) out.push_back(it);
    }
    return out;
}

QString LapFigureModel::cell(const Row& row, std::size_t column) const {
    if (row.kind == Row::Kind::mean && looks_[column].is_time) {
        // How alike the laps of a run, a driver, a session are.
        const Spread spread = spread_of(members_of(row, column));
        return spread.count < 2
                   ? looks_[column].text(spread.mean)
                   : looks_[column].text(spread.mean) + QStringLiteral(" ±") + QString::number(spread.sd, 'f', 2);
    }
    if (row.kind != Row::Kind::trend) return looks_[column].text(value(row, column));
    const LapTrend* line = trend(row.run, column);
    if (line == nullptr) return {};
    if (!line->sure()) return tr("alike");
    const double half = std::abs(looks_[column].how.difference_from_si(line->likely.length() / 2));
    const int decimals = std::clamp(static_cast<int>(std::ceil(-std::log10(std::max(half, 1e-9)))), 0, 4);
    return looks_[column].change_text(line->per_lap, decimals) + QStringLiteral(" ±") +
           QString::number(half, 'f', decimals);
}

int LapFigureModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}

int LapFigureModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() || table_ == nullptr ? 0 : static_cast<int>(table_->columns.size()) + 1;
}

QVariant LapFigureModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid()) return {};
    const Row& row = rows_[static_cast<std::size_t>(index.row())];
    const auto column = figure_of(index.column());
    const bool is_lap = row.kind == Row::Kind::lap;
    const Theme& t = theme();
    if (role == on_top_role) return is_lap ? -1 : index.row();
    if (role == Qt::DisplayRole) return column ? cell(row, *column) : row.label;
    if (role == sort_role) return column ? value(row, *column) : static_cast<double>(index.row());
    if (role == Qt::TextAlignmentRole)
        return QVariant(column ? Qt::AlignRight | Qt::AlignVCenter : Qt::AlignLeft | Qt::AlignVCenter);
    if (role == Qt::ToolTipRole && is_lap) {
        const rendak::LapTable::Row& lap = table_->rows[row.lap];
        const RunInTable* run = run_of(lap.ref.run);
        QString out = tr("%1 lap %2").arg(run->title).arg(lap.ref.lap);
        if (!lap.counts) out += tr(", not counted: %1").arg(QString::fromStdString(lap.why));
        return out;
    }
    if (role == Qt::ToolTipRole && row.kind == Row::Kind::trend && column) {
        const LapTrend* line = trend(row.run, *column);
        if (line == nullptr) return {};
        const double half = looks_[*column].how.difference_from_si(line->likely.length() / 2);
        return tr("%1 a lap, ± %2 (95 %), over %3; laps scatter by %4 about the line")
            .arg(looks_[*column].change_text(line->per_lap, 4))
            .arg(std::abs(half), 0, 'g', 2)
            .arg(counted(static_cast<qsizetype>(line->laps), tr("lap"), tr("laps")))
            .arg(std::abs(looks_[*column].how.difference_from_si(line->scatter)), 0, 'g', 3);
    }
    if (role == Qt::FontRole) {
        const bool sure = row.kind == Row::Kind::trend && column && trend(row.run, *column) != nullptr &&
                          trend(row.run, *column)->sure();
        const bool best =
            is_lap && column &&
            (table_->columns[*column].best == row.lap || (looks_[*column].is_time && table_->best_lap == row.lap));
        const bool best_lap = is_lap && !column && table_->best_lap == row.lap;
        return body_font(sure || best || best_lap || row.kind == Row::Kind::mean);
    }
    if (role == Qt::ForegroundRole) {
        const RunInTable* run = run_of(row.run);
        if (is_lap && !table_->rows[row.lap].counts) return t.mute;
        if (!column && run != nullptr && run->slot >= 0 && group_ == Group::runs) return t.lap(run->slot);
        if (!column && is_lap && run != nullptr && run->slot >= 0) return t.lap(run->slot);
        if (is_lap && column && table_->columns[*column].best == row.lap) return t.won;
        if (row.kind == Row::Kind::trend && column) {
            const LapTrend* line = trend(row.run, *column);
            if (line == nullptr || !line->sure()) return t.mute;
            const Better way = table_->columns[*column].better;
            if (way == Better::neither) return t.ink;
            return (line->per_lap < 0) == (way == Better::less) ? t.won : t.lost;
        }
        return t.ink;
    }
    return {};
}

QVariant LapFigureModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || table_ == nullptr) return {};
    const auto column = figure_of(section);
    if (role == Qt::DisplayRole) {
        if (!column) return tr("Lap");
        const QString unit = looks_[*column].is_time ? QString() : looks_[*column].how.unit;
        return looks_[*column].label + (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit);
    }
    if (role == Qt::ToolTipRole && column) {
        const rendak::LapTable::Column& it = table_->columns[*column];
        QString out = QString::fromStdString(it.column.text());
        if (!it.missing.empty()) out += u'\n' + QString::fromStdString(it.missing);
        return out + tr("\nClick: its picture over the laps, and sort by it.");
    }
    return {};
}

QString LapFigureModel::as_text(QChar between) const {
    QString out = tr("Run") + between + tr("Lap") + between + tr("Counts");
    const auto quoted = [&](const QString& text) {
        return between == u',' ? QString::fromStdString(csv_cell(text.toStdString())) : text;
    };
    for (int c = 1; c < columnCount(); ++c)
        out += between + quoted(headerData(c, Qt::Horizontal, Qt::DisplayRole).toString());
    out += u'\n';
    for (const Row& row : rows_) {
        if (row.kind != Row::Kind::lap) continue;
        const rendak::LapTable::Row& lap = table_->rows[row.lap];
        const RunInTable* run = run_of(lap.ref.run);
        out += quoted(run->title) + between + QString::number(lap.ref.lap) + between + (lap.counts ? u'1' : u'0');
        for (std::size_t c = 0; c < table_->columns.size(); ++c) {
            const double it = lap.figures[c].value;
            out += between;
            if (std::isfinite(it)) out += QString::number(looks_[c].how.from_si(it), 'g', 8);
        }
        out += u'\n';
    }
    return out;
}

void LapFigureSort::set_words(const QString& text) {
    words_ = text.toLower().split(u' ', Qt::SkipEmptyParts);
    invalidateFilter();
}

void LapFigureSort::set_only_counted(bool on) {
    only_counted_ = on;
    invalidateFilter();
}

bool LapFigureSort::lessThan(const QModelIndex& left, const QModelIndex& right) const {
    const int a = left.data(LapFigureModel::on_top_role).toInt(), b = right.data(LapFigureModel::on_top_role).toInt();
    const bool up = sortOrder() == Qt::AscendingOrder;
    if (a >= 0 && b >= 0) return up ? a < b : a > b;
    if (a >= 0 || b >= 0) return (a >= 0) == up;
    const double x = left.data(LapFigureModel::sort_role).toDouble(),
                 y = right.data(LapFigureModel::sort_role).toDouble();
    // What has no figure stands at the end.
    if (std::isnan(x) || std::isnan(y))
        return std::isnan(y) && !std::isnan(x) ? up : !up && std::isnan(x) && !std::isnan(y);
    return x < y;
}

bool LapFigureSort::filterAcceptsRow(int row, const QModelIndex&) const {
    const auto* figures = static_cast<const LapFigureModel*>(sourceModel());
    const rendak::LapTable::Row* lap = figures->lap_at(row);
    if (lap == nullptr) return true;
    if (only_counted_ && !lap->counts) return false;
    const RunInTable* run = figures->run_of(lap->ref.run);
    const QString all = (run->title + u'\n' + run->driver + u'\n' + run->session).toLower();
    return std::all_of(words_.begin(), words_.end(), [&](const QString& word) { return all.contains(word); });
}

FigureHeader::FigureHeader(const LapFigureModel& figures, QWidget* parent)
    : QHeaderView(Qt::Horizontal, parent), figures_(figures) {
    setSectionsClickable(true);
    setHighlightSections(false);
}

void FigureHeader::set_chosen(int column) {
    chosen_ = column;
    viewport()->update();
}

QSize FigureHeader::sizeHint() const {
    return {QHeaderView::sizeHint().width(), 2 * fontMetrics().height() + 30};
}

void FigureHeader::paintSection(QPainter* painter, const QRect& rect, int section) const {
    const Theme& t = theme();
    painter->save();
    painter->fillRect(rect, t.panel);
    const auto column = LapFigureModel::figure_of(section);
    painter->setFont(small_font(section == chosen_));
    painter->setPen(section == chosen_ ? t.accent : t.mute);
    const QRect text = rect.adjusted(3, 2, -3, -24);
    painter->drawText(text, (column ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter | Qt::TextWordWrap,
                      figures_.headerData(section, Qt::Horizontal, Qt::DisplayRole).toString());
    if (sortIndicatorSection() == section) {
        const QPointF tip(rect.left() + 7, rect.top() + (sortIndicatorOrder() == Qt::AscendingOrder ? 3 : 9));
        const double down = sortIndicatorOrder() == Qt::AscendingOrder ? 5 : -5;
        painter->setPen(Qt::NoPen);
        painter->setBrush(t.mute);
        painter->drawPolygon(QPolygonF{tip, tip + QPointF(-3.5, down), tip + QPointF(3.5, down)});
    }
    painter->setPen(t.rule);
    painter->drawLine(rect.bottomLeft(), rect.bottomRight());
    const rendak::LapTable* table = figures_.table();
    if (!column || table == nullptr) {
        painter->restore();
        return;
    }
    double low = 1e300, high = -1e300, most = 1;
    std::vector<std::pair<int, std::vector<double>>> lines;
    for (const RunInTable& run : figures_.runs()) {
        std::vector<double> line;
        for (const rendak::LapTable::Row& row : table->rows) {
            const double it = row.figures[*column].value;
            if (row.ref.run != run.id || !row.counts || !std::isfinite(it)) continue;
            line.push_back(it);
            low = std::min(low, it);
            high = std::max(high, it);
        }
        most = std::max(most, static_cast<double>(line.size()) - 1);
        lines.emplace_back(run.slot, std::move(line));
    }
    painter->setRenderHint(QPainter::Antialiasing);
    const QRectF area = QRectF(rect).adjusted(6, rect.height() - 22, -6, -4);
    for (const auto& [slot, line] : lines) {
        QPolygonF points;
        for (std::size_t k = 0; k < line.size(); ++k) {
            const double up = high > low ? (line[k] - low) / (high - low) : 0.5;
            points << QPointF(area.left() + static_cast<double>(k) / most * area.width(),
                              area.bottom() - up * area.height());
        }
        painter->setPen(QPen(slot >= 0 ? t.lap(slot) : t.rule, 1.1));
        if (points.size() > 1)
            painter->drawPolyline(points);
        else if (points.size() == 1)
            painter->drawPoint(points.first());
    }
    painter->restore();
}

}  // namespace rendak::app
