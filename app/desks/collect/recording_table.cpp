#include "app/desks/collect/recording_table.h"

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

QString size_text(double bytes) {
    if (bytes < 1e6) return with_unit(QString::number(bytes / 1e3, 'f', 0), QStringLiteral("kB"));
    if (bytes < 1e9) return with_unit(QString::number(bytes / 1e6, 'f', 1), QStringLiteral("MB"));
    return with_unit(QString::number(bytes / 1e9, 'f', 1), QStringLiteral("GB"));
}

RecordingTable::RecordingTable(QObject* parent) : QAbstractTableModel(parent) {}

void RecordingTable::show(std::vector<Row> rows) {
    beginResetModel();
    std::set<std::string> known;
    for (const Row& row : rows_) known.insert(row.file.sha256);
    rows_ = std::move(rows);
    std::set<std::string> ticks;
    for (const Row& row : rows_) {
        const bool keep = known.contains(row.file.sha256) ? ticked_.contains(row.file.sha256) : true;
        if (keep && !row.state.run) ticks.insert(row.file.sha256);
    }
    ticked_ = std::move(ticks);
    endResetModel();
    Q_EMIT ticks_changed();
}

void RecordingTable::set_clock_shift(double shift_s) {
    clock_shift_s_ = shift_s;
    if (!rows_.empty()) Q_EMIT dataChanged(index(0, date), index(rowCount() - 1, date));
}

std::vector<LoggedFile> RecordingTable::ticked() const {
    std::vector<LoggedFile> out;
    for (const Row& row : rows_) {
        if (ticked_.contains(row.file.sha256)) out.push_back(row.file);
    }
    return out;
}

void RecordingTable::tick(int row, bool on) {
    const std::string& digest = rows_[static_cast<std::size_t>(row)].file.sha256;
    if (on)
        ticked_.insert(digest);
    else
        ticked_.erase(digest);
    Q_EMIT dataChanged(index(row, chosen), index(row, chosen));
    Q_EMIT ticks_changed();
}

void RecordingTable::tick_all(bool on) {
    for (int row = 0; row < rowCount(); ++row) tick(row, on);
}

int RecordingTable::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}

int RecordingTable::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : column_count;
}

QVariant RecordingTable::data(const QModelIndex& index, int role) const {
    if (!index.isValid()) return {};
    const Row& row = rows_[static_cast<std::size_t>(index.row())];
    const LoggedFile& file = row.file;
    switch (role) {
        case Qt::CheckStateRole:
            if (index.column() == chosen) return ticked_.contains(file.sha256) ? Qt::Checked : Qt::Unchecked;
            return {};
        case Qt::DisplayRole:
            switch (index.column()) {
                case number:
                    return file.number;
                case name:
                    return QString::fromStdString(file.name);
                case date:
                    return file.start_unix_s ? date_time(*file.start_unix_s + clock_shift_s_) : tr("no date");
                case length:
                    if (!file.duration_s) return QStringLiteral("–");
                    return with_unit(QString::number(*file.duration_s / 60, 'f', 1), QStringLiteral("min")) +
                           (file.complete ? QString() : tr(", cut off"));
                case laps:
                    return file.laps ? QString::number(*file.laps) : QStringLiteral("–");
                case size:
                    return size_text(static_cast<double>(file.size));
                case in_library:
                    if (!row.state.run) return tr("new");
                    if (row.state.binned) return tr("%1, in the bin").arg(row.run_name);
                    return row.state.verified ? tr("%1, verified").arg(row.run_name)
                                              : tr("%1, original not kept").arg(row.run_name);
                default:
                    return {};
            }
        case Qt::ToolTipRole:
            return tr("%1\nSHA-256 %2").arg(QString::fromStdString(file.name), QString::fromStdString(file.sha256));
        case Qt::ForegroundRole:
            if (!file.complete && index.column() == length) return theme().lost;
            return row.state.run ? theme().mute : theme().ink;
        case Qt::FontRole:
            return index.column() == in_library && !row.state.run ? QVariant(body_font(true)) : QVariant();
        case Qt::TextAlignmentRole:
            if (index.column() == number || index.column() == length || index.column() == laps ||
                index.column() == size)
                return int(Qt::AlignRight | Qt::AlignVCenter);
            return int(Qt::AlignLeft | Qt::AlignVCenter);
        default:
            return {};
    }
}

QVariant RecordingTable::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    switch (section) {
        case number:
            return tr("No.");
        case name:
            return tr("File");
        case date:
            return clock_shift_s_ == 0 ? tr("Logger's date") : tr("Corrected date");
        case length:
            return tr("Length");
        case laps:
            return tr("Laps");
        case size:
            return tr("Size");
        case in_library:
            return tr("In the library");
        default:
            return {};
    }
}

Qt::ItemFlags RecordingTable::flags(const QModelIndex& index) const {
    Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    if (index.column() == chosen) flags |= Qt::ItemIsUserCheckable;
    return flags;
}

bool RecordingTable::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (!index.isValid() || index.column() != chosen || role != Qt::CheckStateRole) return false;
    tick(index.row(), value.toInt() == Qt::Checked);
    return true;
}

}  // namespace rendak::app
