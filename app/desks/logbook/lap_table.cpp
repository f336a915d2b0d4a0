#include "app/desks/logbook/lap_table.h"

#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/laps/cut.h"

namespace rendak::app {
namespace {

QString kind_text(LapKind kind) {
    switch (kind) {
        case LapKind::out:
            return LapTable::tr("out lap");
        case LapKind::flying:
            return LapTable::tr("flying");
        case LapKind::in:
            return LapTable::tr("in lap");
        case LapKind::part:
            return LapTable::tr("part lap");
        case LapKind::stopped:
            return LapTable::tr("stopped");
    }
    return {};
}

}  // namespace

LapTable::LapTable(Workspace& workspace, QObject* parent) : QAbstractTableModel(parent), workspace_(workspace) {}

void LapTable::show_run(RunId run) {
    beginResetModel();
    run_ = run;
    laps_ = run ? workspace_.shown(workspace_.library().laps(run)) : std::vector<Lap>{};
    const Lap* best = best_lap(laps_);
    best_row_ = best == nullptr ? -1 : static_cast<int>(best - laps_.data());
    endResetModel();
}

int LapTable::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(laps_.size());
}

int LapTable::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : column_count;
}

QVariant LapTable::data(const QModelIndex& index, int role) const {
    if (!index.isValid()) return {};
    const Lap& lap = laps_[static_cast<std::size_t>(index.row())];
    const bool best = index.row() == best_row_;
    switch (role) {
        case Qt::DisplayRole:
            switch (index.column()) {
                case number:
                    return lap.number;
                case kind:
                    return kind_text(lap.kind);
                case time:
                    return lap_time(lap.time_s()) + (best ? tr("  best") : QString());
                case behind:
                    if (best || best_row_ < 0 || !lap.complete()) return {};
                    return signed_number(lap.time_s() - laps_[static_cast<std::size_t>(best_row_)].time_s(), 3);
                case length:
                    return with_unit(QString::number(lap.length_m, 'f', 0), QStringLiteral("m"));
                case trust:
                    return lap.trust_m > 0 ? with_unit(QStringLiteral("± ") + QString::number(lap.trust_m, 'f', 1),
                                                       QStringLiteral("m"))
                                           : QString();
                case note:
                    return QString::fromStdString(lap.reason);
                default:
                    return {};
            }
        case Qt::EditRole:
            return index.column() == note ? QVariant(QString::fromStdString(lap.reason)) : QVariant();
        case Qt::CheckStateRole:
            if (index.column() != included) return {};
            return lap.included ? Qt::Checked : Qt::Unchecked;
        case Qt::ToolTipRole:
            if (index.column() == included)
                return lap.switched_by_hand ? tr("Switched by hand")
                                            : tr("Switch the lap in or out; the note keeps the reason");
            return QString::fromStdString(lap.reason);
        case Qt::FontRole:
            if (index.column() == time) return best ? number_font() : body_font();
            return {};
        case Qt::ForegroundRole:
            if (index.column() == trust && lap.trust_m > poor_trust_m) return theme().lost;
            return lap.included ? theme().ink : theme().mute;
        case Qt::TextAlignmentRole:
            if (index.column() == note || index.column() == kind) return int(Qt::AlignLeft | Qt::AlignVCenter);
            return int(Qt::AlignRight | Qt::AlignVCenter);
        case Qt::AccessibleTextRole:
            if (index.column() == included) return lap.included ? tr("counted") : tr("left out");
            return {};
        default:
            return {};
    }
}

QVariant LapTable::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    switch (section) {
        case included:
            return tr("In");
        case number:
            return tr("Lap");
        case kind:
            return tr("Kind");
        case time:
            return tr("Time");
        case behind:
            return tr("To best");
        case length:
            return tr("Length");
        case trust:
            return tr("Places");
        case note:
            return tr("Note");
        default:
            return {};
    }
}

Qt::ItemFlags LapTable::flags(const QModelIndex& index) const {
    if (!index.isValid()) return Qt::NoItemFlags;
    Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    if (index.column() == included) flags |= Qt::ItemIsUserCheckable;
    if (index.column() == note) flags |= Qt::ItemIsEditable;
    return flags;
}

void LapTable::switch_lap(const Lap& before, bool on, const QString& reason) {
    const LapRef ref{run_, before.number};
    workspace_.edit(
        on ? tr("switch lap %1 in").arg(ref.lap) : tr("switch lap %1 out").arg(ref.lap),
        [this, ref, on, reason] { return workspace_.library().switch_lap(ref, on, reason.toStdString()); },
        [this, ref, before] {
            return before.switched_by_hand ? workspace_.library().switch_lap(ref, before.included, before.reason)
                                           : workspace_.library().unswitch_lap(ref);
        });
}

bool LapTable::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (!index.isValid()) return false;
    const Lap lap = laps_[static_cast<std::size_t>(index.row())];
    if (index.column() == included && role == Qt::CheckStateRole) {
        const bool on = value.toInt() == Qt::Checked;
        if (on == lap.included) return false;
        switch_lap(lap, on, on ? tr("switched in by hand") : tr("switched out by hand"));
        return true;
    }
    if (index.column() == note && role == Qt::EditRole && value.toString() != QString::fromStdString(lap.reason)) {
        switch_lap(lap, lap.included, value.toString());
        return true;
    }
    return false;
}

}  // namespace rendak::app
