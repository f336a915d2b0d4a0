#include "app/desks/corners/figure_model.h"

#include <cmath>
#include <limits>

#include "app/text/figure_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/units/gravity.h"

namespace rendak::app {
namespace {

constexpr double nothing = std::numeric_limits<double>::quiet_NaN();
// Columns before the laps.
enum TimeColumn { section_name, best, middle, mean, sd, most, time_columns };
enum PeakColumnOf { corner_name, hand, banking, highest, unused, peak_columns };

}  // namespace

void FigureModel::set_figures(std::shared_ptr<const CornerFigures> figures) {
    beginResetModel();
    figures_ = std::move(figures);
    endResetModel();
}

void FigureModel::show(Shows shows, Figure figure) {
    beginResetModel();
    shows_ = shows;
    figure_ = figure;
    endResetModel();
}

void FigureModel::show_corners(std::size_t figure, bool banked_count) {
    beginResetModel();
    shows_ = Shows::peaks;
    corner_figure_ = figure;
    banked_count_ = banked_count;
    endResetModel();
}

void FigureModel::show_activity(std::size_t figure) {
    beginResetModel();
    shows_ = Shows::activity;
    activity_figure_ = figure;
    endResetModel();
}

std::size_t FigureModel::runs_apart() const {
    if (shows_ == Shows::peaks || figures_ == nullptr || table().runs.size() < 2) return 0;
    return table().runs.size();
}

double FigureModel::own_value(std::size_t lap, std::size_t row) const {
    if (shows_ == Shows::channel) return of_channel(lap, row);
    if (shows_ == Shows::activity) return figures_->activity[lap][row].*activity_figure().value;
    const auto& of = table().rows[lap];
    return row == table().sections.size() ? of.lap_s : of.section_s[row];
}

Spread FigureModel::spread_at(std::size_t row, std::optional<RunId> run) const {
    std::vector<double> values;
    for (std::size_t k = 0; k < figures_->laps.size(); ++k) {
        const auto& of = table().rows[k];
        if (run ? of.ref.run != *run || !of.counts_in_run : !of.included) continue;
        const double value = own_value(k, row);
        if (std::isfinite(value)) values.push_back(value);
    }
    return spread_of(values);
}

double FigureModel::of_corner(std::size_t lap, std::size_t corner) const {
    return figures_->of_corners[lap][corner][corner_figure_];
}

const SectionTable& FigureModel::table() const {
    return shows_ == Shows::sectors ? figures_->sectors : figures_->sections;
}

const CornerPeaks& FigureModel::peaks() const {
    return banked_count_ ? figures_->peaks_with_banked : figures_->peaks;
}

int FigureModel::first_lap_column() const {
    return shows_ == Shows::peaks ? int(peak_columns) : int(time_columns) + static_cast<int>(runs_apart());
}

int FigureModel::rowCount(const QModelIndex& parent) const {
    if (parent.isValid() || figures_ == nullptr || figures_->laps.empty()) return 0;
    return shows_ == Shows::peaks ? static_cast<int>(peaks().corners.size())
                                  : static_cast<int>(table().sections.size()) + 1;
}

int FigureModel::columnCount(const QModelIndex& parent) const {
    if (parent.isValid() || figures_ == nullptr) return 0;
    return first_lap_column() + static_cast<int>(figures_->laps.size());
}

bool FigureModel::is_total(int row) const {
    return shows_ != Shows::peaks && row == static_cast<int>(table().sections.size());
}

std::optional<LapRef> FigureModel::lap_of(int column) const {
    const int lap = column - first_lap_column();
    if (figures_ == nullptr || lap < 0 || lap >= static_cast<int>(figures_->laps.size())) return std::nullopt;
    return figures_->laps[static_cast<std::size_t>(lap)];
}

Interval FigureModel::range_of(int row) const {
    if (shows_ == Shows::peaks)
        return view_of_corner(*figures_->track, peaks().corners[static_cast<std::size_t>(row)].corner);
    if (is_total(row)) return {};
    return table().sections[static_cast<std::size_t>(row)].range_m;
}

double FigureModel::of_channel(std::size_t lap, std::size_t row) const {
    if (lap >= figures_->of_channel.size()) return nothing;
    const RangeFigures& of = figures_->of_channel[lap][row];
    return figure_ == Figure::low ? of.low : figure_ == Figure::high ? of.high : of.mean;
}

double FigureModel::value_at(int row, int column) const {
    const auto r = static_cast<std::size_t>(row);
    const int lap = column - first_lap_column();
    if (shows_ == Shows::peaks) {
        const PeakColumn& corner = peaks().corners[r];
        switch (column) {
            case corner_name:
                return row;
            case hand:
                return corner.corner.left ? 0 : 1;
            case banking:
                return figures_->track->banking.value.empty() ? nothing : corner.banking_rad;
            case highest:
                return corner.best_mps2;
            case unused: {
                if (corner.banked && !banked_count_) return nothing;
                return 1 - corner.best_mps2 / peaks().limit(corner.corner.left);
            }
            default:
                return of_corner(static_cast<std::size_t>(lap), r);
        }
    }
    if (column == section_name) return row;
    if (lap >= 0) {
        const double own = own_value(static_cast<std::size_t>(lap), r);
        const bool times = shows_ == Shows::sections || shows_ == Shows::sectors;
        if (!times || figure_ != Figure::to_best || !table().best_lap) return own;
        return own - own_value(*table().best_lap, r);
    }
    const bool apart = column >= time_columns;
    const Spread over = apart ? spread_at(r, table().runs[static_cast<std::size_t>(column - time_columns)].run)
                              : spread_at(r, std::nullopt);
    if (over.count == 0 || (column == sd && over.count < 2)) return nothing;
    switch (column) {
        case best:
            return over.least;
        case mean:
            return over.mean;
        case sd:
            return over.sd;
        case most:
            return over.most;
        default:
            return over.middle;
    }
}

QString FigureModel::shown_at(int row, int column) const {
    const double value = value_at(row, column);
    const int lap = column - first_lap_column();
    if (shows_ == Shows::peaks) {
        const PeakColumn& corner = peaks().corners[static_cast<std::size_t>(row)];
        if (column == corner_name) return QString::fromStdString(corner.corner.title());
        if (column == hand) return corner.corner.left ? tr("left") : tr("right");
        if (!std::isfinite(value)) return column == unused && corner.banked ? tr("banked") : QStringLiteral("–");
        if (column == banking) return signed_number(value * 57.29577951, 1);
        if (column == unused) return QStringLiteral("%1").arg(100 * value, 0, 'f', 0);
        const CornerFigure& figure = corner_figure();
        if (lap >= 0 && std::string_view(figure.quantity) != "lateral_acceleration") return figure_text(figure, value);
        return QString::number(value / standard_gravity_mps2, 'f', 2);
    }
    if (column == section_name)
        return is_total(row) ? tr("Lap") : QString::fromStdString(table().sections[static_cast<std::size_t>(row)].name);
    if (shows_ == Shows::channel) {
        const Shown how = shown(figures_->channel);
        return column != sd           ? how.text(value)
               : std::isfinite(value) ? QString::number(std::abs(how.difference_from_si(value)), 'f', how.decimals + 1)
                                      : QStringLiteral("–");
    }
    if (!std::isfinite(value)) return QStringLiteral("–");
    if (shows_ == Shows::activity) {
        const bool length = activity_figure().unit == std::string_view("m");
        return length ? distance_shown().text(value) : QString::number(value, 'f', 2);
    }
    if (lap >= 0 && figure_ == Figure::to_best) return signed_number(value, is_total(row) ? 3 : 2);
    if (is_total(row) && column != sd) return lap_time(value);
    return QString::number(value, 'f', lap >= 0 ? 2 : 3);
}

bool FigureModel::is_best(int row, int column) const {
    const int lap = column - first_lap_column();
    if (lap < 0) return false;
    if (shows_ == Shows::channel) return false;  // high or low: neither is better by itself
    const auto l = static_cast<std::size_t>(lap), r = static_cast<std::size_t>(row);
    if (shows_ == Shows::peaks || shows_ == Shows::activity) {
        const double own = value_at(row, column);
        const Better better = shows_ == Shows::peaks ? corner_figure().better : activity_figure().better;
        if (!figures_->sections.rows[l].included) return false;  // sets no best, and hides none
        for (std::size_t k = 0; k < figures_->laps.size(); ++k) {
            if (!figures_->sections.rows[k].included) continue;
            const double other = value_at(row, first_lap_column() + static_cast<int>(k));
            if (better == Better::more ? other > own : other < own) return false;
        }
        return better != Better::neither && std::isfinite(own);
    }
    return is_total(row) ? table().best_lap == l : table().best[r] == l;
}

QVariant FigureModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || figures_ == nullptr) return {};
    const int row = index.row(), column = index.column(), lap = column - first_lap_column();
    const bool counts = lap < 0 || table().rows[static_cast<std::size_t>(lap)].included;
    switch (role) {
        case Qt::DisplayRole:
            return shown_at(row, column);
        case sort_role:
            // The lap stays below its sections whatever is sorted.
            return is_total(row) ? 1e12 : value_at(row, column);
        case Qt::FontRole:
            return is_total(row) || is_best(row, column) || column == 0 ? body_font(true) : body_font();
        case Qt::ForegroundRole:
            if (!counts) return theme().mute;
            return is_best(row, column) ? theme().won : theme().ink;
        case Qt::BackgroundRole:
            if (is_total(row)) return theme().paper;
            return {};
        case Qt::TextAlignmentRole:
            return int(column == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
        case Qt::ToolTipRole: {
            if (lap < 0) return {};
            const QString who = figures_->lap_runs[static_cast<std::size_t>(lap)] +
                                tr(", lap %1").arg(figures_->laps[static_cast<std::size_t>(lap)].lap);
            if (shows_ != Shows::peaks) return who + (counts ? QString() : tr(" (left out)"));
            const CornerPeak& peak = peaks().laps[static_cast<std::size_t>(lap)][static_cast<std::size_t>(row)];
            return who + tr(": peak %1 g, mean %2 g, slowest %3 %4")
                             .arg(peak.peak_mps2 / standard_gravity_mps2, 0, 'f', 2)
                             .arg(peak.mean_mps2 / standard_gravity_mps2, 0, 'f', 2)
                             .arg(shown("speed").text(peak.slowest_mps), shown("speed").unit);
        }
        default:
            return {};
    }
}

QVariant FigureModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || figures_ == nullptr) return {};
    const auto lap = lap_of(section);
    const auto at = static_cast<std::size_t>(std::max(0, section - first_lap_column()));
    if (role == Qt::ToolTipRole) {
        if (lap) return figures_->lap_runs[at] + tr(", lap %1").arg(lap->lap);
        if (shows_ != Shows::peaks && section == middle) return tr("The middle one of the laps that count (median)");
        if (shows_ != Shows::peaks && section >= time_columns)
            return tr("Of this run alone: the middle one of its laps that count");
        if (shows_ == Shows::peaks && section == banking)
            return tr("Banking in the middle of the corner, degrees; positive helps");
        if (shows_ == Shows::peaks && section == unused)
            return tr(
                "How far the highest peak here stays under the highest of all corners of this hand. An observed "
                "maximum: take it as the limit only where no calculated one is known.");
        return {};
    }
    if (role == Qt::FontRole) return lap && table().best_lap == at ? body_font(true) : body_font();
    if (role != Qt::DisplayRole) return {};
    if (lap) return (table().best_lap == at ? tr("★ ") : QString()) + figures_->lap_names[at];
    if (shows_ == Shows::peaks) {
        const QStringList names{tr("Corner"), tr("Hand"), tr("Bank °"), tr("Best g"), tr("Unused %")};
        return names[section];
    }
    if (section >= time_columns) return figures_->run_names[static_cast<std::size_t>(section - time_columns)];
    if (shows_ == Shows::channel || shows_ == Shows::activity) {
        const QString unit = shows_ == Shows::channel                          ? shown(figures_->channel).unit
                             : activity_figure().unit == std::string_view("m") ? distance_shown().unit
                                                                               : QStringLiteral("s");
        return QStringList{unit.isEmpty() ? tr("Section") : tr("Section, %1").arg(unit),
                           tr("Lowest"),
                           tr("Middle"),
                           tr("Mean"),
                           tr("Std dev"),
                           tr("Highest")}[section];
    }
    const QStringList names{shows_ == Shows::sectors ? tr("Sector") : tr("Section"),
                            tr("Best"),
                            tr("Middle"),
                            tr("Mean"),
                            tr("Std dev"),
                            tr("Slowest")};
    return names[section];
}

QString FigureModel::as_text(QChar between) const {
    QString out;
    const auto cell = [&](QString text) {
        if (text.contains(between) || text.contains(u'"'))
            text = u'"' + text.replace(u'"', QStringLiteral("\"\"")) + u'"';
        return text;
    };
    for (int column = 0; column < columnCount(); ++column)
        out += (column > 0 ? QString(between) : QString()) +
               cell(headerData(column, Qt::Horizontal, Qt::DisplayRole).toString().remove(QStringLiteral("★ ")));
    out += u'\n';
    for (int row = 0; row < rowCount(); ++row) {
        for (int column = 0; column < columnCount(); ++column) {
            double value = value_at(row, column);
            if (shows_ == Shows::channel) {  // in the unit that the heading names
                const Shown how = shown(figures_->channel);
                value = column == sd ? std::abs(how.difference_from_si(value)) : how.from_si(value);
            }
            if (shows_ == Shows::activity && activity_figure().unit == std::string_view("m"))
                value = distance_shown().from_si(value);
            const bool word = column == 0 || (shows_ == Shows::peaks && column == hand);
            out += (column > 0 ? QString(between) : QString()) + cell(word ? shown_at(row, column)
                                                                      : std::isfinite(value)
                                                                          ? QString::number(value, 'f', 4)
                                                                          : QString());
        }
        out += u'\n';
    }
    return out;
}

}  // namespace rendak::app
