#include "app/desks/logbook/run_tree.h"

#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/laps/cut.h"

namespace rendak::app {

RunTree::RunTree(QObject* parent) : QStandardItemModel(parent) {
    setHorizontalHeaderLabels(
        {tr("Run"), tr("Driver"), tr("Best lap"), tr("Flying"), tr("Logger's date"), tr("Car"), tr("Track")});
    for (const int column : {int(best), int(flying)})
        setHeaderData(column, Qt::Horizontal, int(Qt::AlignRight | Qt::AlignVCenter), Qt::TextAlignmentRole);
}

RunId RunTree::run_of(const QModelIndex& index) {
    return {index.siblingAtColumn(name).data(run_role).toLongLong()};
}

void RunTree::read(const Library& library) {
    removeRows(0, rowCount());
    std::map<std::string, QStandardItem*> events;
    std::map<std::pair<std::string, std::string>, QStandardItem*> sessions;
    const auto group = [](QStandardItem* parent, const std::string& text) {
        auto* item = new QStandardItem(QString::fromStdString(text.empty() ? "–" : text));
        item->setFont(body_font(true));
        item->setEditable(false);
        item->setData(item->text(), sort_role);
        QList<QStandardItem*> row{item};
        for (int column = 1; column < column_count; ++column) {
            row << new QStandardItem;
            row.last()->setEditable(false);
        }
        parent->appendRow(row);
        return item;
    };
    for (const RunRow& run : library.runs()) {
        auto*& event = events[run.event];
        if (event == nullptr) event = group(invisibleRootItem(), run.event);
        auto*& session = sessions[{run.event, run.session}];
        if (session == nullptr) session = group(event, run.session);
        const auto laps = library.laps(run.id);
        const Lap* fastest = best_lap(laps);
        const auto count = std::count_if(laps.begin(), laps.end(),
                                         [](const Lap& lap) { return lap.kind == LapKind::flying && lap.included; });
        QList<QStandardItem*> row;
        const auto cell = [&](const QString& text, const QVariant& sort_by, bool right = false) {
            auto* item = new QStandardItem(text);
            item->setEditable(false);
            item->setData(sort_by, sort_role);
            item->setToolTip(text);
            if (right) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            row << item;
            return item;
        };
        cell(QString::fromStdString(run.name), QString::fromStdString(run.name))
            ->setData(QVariant::fromValue<qlonglong>(run.id.value), run_role);
        cell(QString::fromStdString(run.driver), QString::fromStdString(run.driver));
        cell(fastest == nullptr ? QStringLiteral("–") : lap_time(fastest->time_s()),
             fastest == nullptr ? 1e9 : fastest->time_s(), true)
            ->setFont(number_font());
        cell(QString::number(count), static_cast<qlonglong>(count), true);
        cell(run.start_unix_s ? date_time(*run.start_unix_s) : tr("unknown"), run.start_unix_s.value_or(0));
        for (const QString& text : {QString::fromStdString(run.car),
                                    run.track ? QString::fromStdString(run.track_name) : tr("not known yet")})
            cell(text, text);
        session->appendRow(row);
    }
}

RunFilter::RunFilter(QObject* parent) : QSortFilterProxyModel(parent) {
    setSortRole(RunTree::sort_role);
    setSortCaseSensitivity(Qt::CaseInsensitive);
    setRecursiveFilteringEnabled(true);
}

void RunFilter::set_words(const QString& text) {
    words_ = text.split(u' ', Qt::SkipEmptyParts);
    invalidateFilter();
}

bool RunFilter::filterAcceptsRow(int row, const QModelIndex& parent) const {
    const QModelIndex first = sourceModel()->index(row, 0, parent);
    if (!RunTree::run_of(first)) return words_.isEmpty();  // groups show when a run in them does
    QString all = parent.data().toString() + u' ' + parent.parent().data().toString();
    for (int column = 0; column < RunTree::column_count; ++column)
        all += u' ' + first.siblingAtColumn(column).data().toString();
    return std::all_of(words_.begin(), words_.end(),
                       [&](const QString& word) { return all.contains(word, Qt::CaseInsensitive); });
}

}  // namespace rendak::app
