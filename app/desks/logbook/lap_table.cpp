#include "app/desks/logbook/lap_table.h"

#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "app/workspace/lap_actions.h"
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

/// The doubt first: it asks for a decision.
QString why_text(const Lap& lap) {
    const QString doubt = QString::fromStdString(lap.doubt), reason = QString::fromStdString(lap.reason);
    return doubt.isEmpty() || reason.isEmpty() ? doubt + reason : doubt + QStringLiteral("; ") + reason;
}

QString note_text(const Lap& lap) {
    const QString note = QString::fromStdString(lap.note), why = why_text(lap);
    return note.isEmpty() || why.isEmpty() ? note + why : note + QStringLiteral(" · ") + why;
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
                    return distance_text(lap.length_m);
                case trust:
                    return lap.trust_m > 0 ? QStringLiteral("± ") + distance_text(lap.trust_m, 1) : QString();
                case why:
                    return why_text(lap);
                case note:  // a narrow window has room for one column of words: what was written comes first
                    return note_text(lap);
                default:
                    return {};
            }
        case Qt::EditRole:
            return index.column() == note ? QVariant(QString::fromStdString(lap.note)) : QVariant();
        case Qt::CheckStateRole:
            if (index.column() != included) return {};
            // In the middle: it would count but for a doubt, which a click settles.
            return !lap.included ? Qt::Unchecked : lap.doubtful() ? Qt::PartiallyChecked : Qt::Checked;
        case Qt::ToolTipRole:
            if (index.column() == included)
                return lap.switched_by_hand ? tr("Switched by hand")
                       : lap.doubtful()     ? tr("Doubtful, so it does not count: %1. A click counts it all the same")
                                              .arg(QString::fromStdString(lap.doubt))
                                        : tr("Switch the lap in or out");
            return note_text(lap);
        case Qt::FontRole:
            if (index.column() == time) return best ? number_font() : body_font();
            return {};
        case Qt::ForegroundRole:
            if (index.column() == trust && lap.trust_m > poor_trust_m) return theme().lost;
            return lap.counts() ? theme().ink : theme().mute;
        case Qt::TextAlignmentRole:
            if (index.column() >= why || index.column() == kind) return int(Qt::AlignLeft | Qt::AlignVCenter);
            return int(Qt::AlignRight | Qt::AlignVCenter);
        case Qt::AccessibleTextRole:
            if (index.column() == included)
                return !lap.included ? tr("left out") : lap.doubtful() ? tr("doubtful, not counted") : tr("counted");
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
        case why:
            return tr("Why");
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

bool LapTable::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (!index.isValid()) return false;
    const Lap lap = laps_[static_cast<std::size_t>(index.row())];
    if (index.column() == included && role == Qt::CheckStateRole) {
        const bool on = value.toInt() == Qt::Checked;
        if (on == lap.included && !lap.doubtful()) return false;
        switch_lap(workspace_, run_, lap, on);
        return true;
    }
    if (index.column() == note && role == Qt::EditRole && value.toString() != QString::fromStdString(lap.note)) {
        note_lap(workspace_, run_, lap, value.toString());
        return true;
    }
    return false;
}

}  // namespace rendak::app
