#include "app/desks/logbook/run_tree.h"

#include <QHash>
#include <algorithm>
#include <map>

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

QString text_of(const std::string& text) {
    return QString::fromStdString(text);
}

QString number(const std::optional<double>& value, int decimals) {
    return value ? QString::number(*value, 'f', decimals) : QString();
}

QStringList cells_of(const RunSummary& summary) {
    const RunRow& run = summary.run;
    QStringList cells;
    cells.resize(RunTree::column_count);
    cells[RunTree::name] = text_of(run.name);
    cells[RunTree::driver] = text_of(run.driver);
    cells[RunTree::best] = summary.best_s ? lap_time(*summary.best_s) : QStringLiteral("–");
    cells[RunTree::flying] = QString::number(summary.flying);
    cells[RunTree::date] = run.start_unix_s ? date_time(*run.start_unix_s) : RunTree::tr("unknown");
    cells[RunTree::tyres] = text_of(run.tyre_set);
    cells[RunTree::setup] = text_of(run.setup_name);
    cells[RunTree::changes] = text_of(run.changes);
    cells[RunTree::car] = text_of(run.car);
    cells[RunTree::track] = run.track ? text_of(run.track_name) : RunTree::tr("not known yet");
    cells[RunTree::event] = text_of(run.event);
    cells[RunTree::session] = text_of(run.session);
    cells[RunTree::tyre_laps] = number(run.tyre_laps, 0);
    cells[RunTree::fuel] = run.fuel_l ? with_unit(number(run.fuel_l, 0), QStringLiteral("l")) : QString();
    cells[RunTree::official] = run.official_time_s ? lap_time(*run.official_time_s) : QString();
    cells[RunTree::weather] = text_of(run.weather);
    cells[RunTree::remarks] = text_of(run.remarks);
    cells[RunTree::length] = with_unit(QString::number(run.duration_s / 60, 'f', 1), QStringLiteral("min"));
    cells[RunTree::laps] = QString::number(summary.laps);
    cells[RunTree::source] = text_of(run.source_name);
    return cells;
}

/// Number to sort by, for columns that are numbers; missing ones come last.
std::optional<double> sort_number(const RunSummary& summary, int column) {
    constexpr double last = 1e300;
    const RunRow& run = summary.run;
    switch (column) {
        case RunTree::best:
            return summary.best_s.value_or(last);
        case RunTree::flying:
            return summary.flying;
        case RunTree::laps:
            return summary.laps;
        case RunTree::date:
            return run.start_unix_s.value_or(last);
        case RunTree::tyre_laps:
            return run.tyre_laps.value_or(last);
        case RunTree::fuel:
            return run.fuel_l.value_or(last);
        case RunTree::official:
            return run.official_time_s.value_or(last);
        case RunTree::length:
            return run.duration_s;
        default:
            return std::nullopt;
    }
}

/// Sorts "Run 9" before "Run 10": numbers are padded, letters lowered.
QString natural_key(const QString& text) {
    QString out, digits;
    for (const QChar c : text + QChar()) {
        if (c.isDigit()) {
            digits += c;
            continue;
        }
        if (!digits.isEmpty()) out += digits.rightJustified(12, u'0');
        digits.clear();
        if (!c.isNull()) out += c.toLower();
    }
    return out;
}

bool is_number(int column) {
    return sort_number({}, column).has_value() && column != RunTree::date;
}

const char* const titles[RunTree::column_count] = {
    QT_TR_NOOP("Run"),     QT_TR_NOOP("Driver"),  QT_TR_NOOP("Best lap"),  QT_TR_NOOP("Flying"), QT_TR_NOOP("Date"),
    QT_TR_NOOP("Tyres"),   QT_TR_NOOP("Setup"),   QT_TR_NOOP("Changes"),   QT_TR_NOOP("Car"),    QT_TR_NOOP("Track"),
    QT_TR_NOOP("Event"),   QT_TR_NOOP("Session"), QT_TR_NOOP("Tyre laps"), QT_TR_NOOP("Fuel"),   QT_TR_NOOP("Official"),
    QT_TR_NOOP("Weather"), QT_TR_NOOP("Remarks"), QT_TR_NOOP("Length"),    QT_TR_NOOP("Laps"),   QT_TR_NOOP("Source")};

}  // namespace

RunTree::RunTree(QObject* parent) : QAbstractItemModel(parent), nodes_(1) {}

Result<void> RunTree::read(const Library& library) {
    auto runs = library.summaries();
    if (!runs) return pass_on(runs.error());
    show(std::move(*runs));
    return {};
}

void RunTree::show(std::vector<RunSummary> runs) {
    runs_.clear();
    runs_.reserve(runs.size());
    for (RunSummary& summary : runs) {
        QStringList cells = cells_of(summary);
        QString all = cells.join(u'\n').toLower();
        runs_.push_back({std::move(summary), std::move(cells), std::move(all)});
    }
    rebuild();
}

void RunTree::set_words(const QString& text) {
    words_ = text.toLower().split(u' ', Qt::SkipEmptyParts);
    rebuild();
}

void RunTree::set_grouped(bool grouped) {
    grouped_ = grouped;
    rebuild();
}

void RunTree::sort(int column, Qt::SortOrder order) {
    if (column < 0 || column >= column_count) return;
    sort_column_ = column;
    order_ = order;
    rebuild();
}

void RunTree::rebuild() {
    beginResetModel();
    std::vector<int> shown;
    const auto holds = [&](const Row& row, const QString& word) {
        const auto colon = word.indexOf(u':');
        if (colon > 0) {
            for (int column = 0; column < column_count; ++column) {
                if (!tr(titles[column]).toLower().remove(u' ').startsWith(word.left(colon))) continue;
                return row.cells[column].contains(word.mid(colon + 1), Qt::CaseInsensitive);
            }
        }
        return row.all.contains(word);
    };
    for (std::size_t i = 0; i < runs_.size(); ++i) {
        if (std::all_of(words_.begin(), words_.end(), [&](const QString& word) { return holds(runs_[i], word); }))
            shown.push_back(static_cast<int>(i));
    }
    const auto row_of = [this](int i) -> const Row& { return runs_[static_cast<std::size_t>(i)]; };
    std::vector<double> numbers(runs_.size());
    const bool by_number = sort_number({}, sort_column_).has_value();
    std::vector<QString> keys(runs_.size());
    for (const int i : shown) {
        const auto at = static_cast<std::size_t>(i);
        if (by_number)
            numbers[at] = *sort_number(runs_[at].summary, sort_column_);
        else
            keys[at] = natural_key(runs_[at].cells[sort_column_]);
    }
    const auto less = [&](int a, int b) {
        const auto i = static_cast<std::size_t>(a), j = static_cast<std::size_t>(b);
        return by_number ? numbers[i] < numbers[j] : keys[i] < keys[j];
    };
    std::stable_sort(shown.begin(), shown.end(),
                     [&](int a, int b) { return order_ == Qt::AscendingOrder ? less(a, b) : less(b, a); });
    nodes_.assign(1, {});
    const auto add = [this](int parent, int run, const QString& title) {
        const int at = static_cast<int>(nodes_.size());
        nodes_.push_back(
            {parent, static_cast<int>(nodes_[static_cast<std::size_t>(parent)].children.size()), run, title, {}});
        nodes_[static_cast<std::size_t>(parent)].children.push_back(at);
        return at;
    };
    if (!grouped_) {
        for (const int i : shown) add(0, i, {});
        endResetModel();
        return;
    }
    // Events: the latest first. Sessions as they were driven.
    std::map<std::string, std::pair<double, std::map<std::string, double>>> begins;
    for (const int i : shown) {
        const RunRow& run = row_of(i).summary.run;
        const double start = run.start_unix_s.value_or(0);
        auto& day = begins.try_emplace(run.event, std::pair{start, std::map<std::string, double>{}}).first->second;
        day.first = std::max(day.first, start);
        const auto part = day.second.try_emplace(run.session, start).first;
        // A clock that is years off must not carry its session away.
        part->second = std::max(part->second, start);
    }
    std::vector<std::string> events;
    for (const auto& [title, entry] : begins) events.push_back(title);
    std::stable_sort(events.begin(), events.end(),
                     [&](const auto& a, const auto& b) { return begins[a].first > begins[b].first; });
    std::map<std::pair<std::string, std::string>, int> groups;
    for (const std::string& title : events) {
        const int at = add(0, -1, title.empty() ? QStringLiteral("–") : text_of(title));
        std::vector<std::pair<double, std::string>> sessions;
        for (const auto& [below, start] : begins[title].second) sessions.emplace_back(start, below);
        std::sort(sessions.begin(), sessions.end());
        for (const auto& [start, below] : sessions)
            groups[{title, below}] = add(at, -1, below.empty() ? QStringLiteral("–") : text_of(below));
    }
    for (const int i : shown) {
        const RunRow& run = row_of(i).summary.run;
        add(groups[{run.event, run.session}], i, {});
    }
    endResetModel();
}

const RunTree::Node& RunTree::node(const QModelIndex& index) const {
    return nodes_[index.isValid() ? index.internalId() : 0];
}

RunId RunTree::run_of(const QModelIndex& index) {
    return {index.data(run_role).toLongLong()};
}

QModelIndex RunTree::index_of(RunId run) const {
    for (std::size_t i = 1; i < nodes_.size(); ++i) {
        if (nodes_[i].run >= 0 && runs_[static_cast<std::size_t>(nodes_[i].run)].summary.run.id == run)
            return createIndex(nodes_[i].row, 0, static_cast<quintptr>(i));
    }
    return {};
}

std::vector<RunId> RunTree::runs_below(const QModelIndex& index) const {
    const Node& at = node(index);
    if (at.run >= 0) return {runs_[static_cast<std::size_t>(at.run)].summary.run.id};
    std::vector<RunId> out;
    for (int row = 0; row < static_cast<int>(at.children.size()); ++row) {
        const auto more = runs_below(this->index(row, 0, index));
        out.insert(out.end(), more.begin(), more.end());
    }
    return out;
}

QString RunTree::run_sheet() const {
    const auto quoted = [](QString text) {
        const bool plain = !text.contains(u',') && !text.contains(u'"') && !text.contains(u'\n');
        return plain ? text : u'"' + text.replace(u'"', QStringLiteral("\"\"")) + u'"';
    };
    QStringList lines, cells;
    for (const char* title : titles) cells << quoted(tr(title));
    lines << cells.join(u',');
    const auto shown = runs_below({});
    for (const RunId run : shown) {
        const auto found =
            std::find_if(runs_.begin(), runs_.end(), [&](const Row& row) { return row.summary.run.id == run; });
        cells.clear();
        // A thin space is for eyes, not for spreadsheets.
        for (const QString& cell : found->cells) cells << quoted(QString(cell).replace(QChar(0x2009), u' '));
        lines << cells.join(u',');
    }
    return lines.join(u'\n') + u'\n';
}

QModelIndex RunTree::index(int row, int column, const QModelIndex& parent) const {
    const Node& above = node(parent);
    if (row < 0 || row >= static_cast<int>(above.children.size()) || column < 0 || column >= column_count) return {};
    return createIndex(row, column, static_cast<quintptr>(above.children[static_cast<std::size_t>(row)]));
}

QModelIndex RunTree::parent(const QModelIndex& index) const {
    const int above = node(index).parent;
    if (above <= 0) return {};
    return createIndex(nodes_[static_cast<std::size_t>(above)].row, 0, static_cast<quintptr>(above));
}

int RunTree::rowCount(const QModelIndex& parent) const {
    if (parent.column() > 0) return 0;
    return static_cast<int>(node(parent).children.size());
}

int RunTree::columnCount(const QModelIndex&) const {
    return column_count;
}

QVariant RunTree::data(const QModelIndex& index, int role) const {
    if (!index.isValid()) return {};
    const Node& at = node(index);
    if (at.run < 0) {
        if (role == Qt::FontRole) return body_font(true);
        return role == Qt::DisplayRole && index.column() == 0 ? QVariant(at.title) : QVariant();
    }
    const Row& row = runs_[static_cast<std::size_t>(at.run)];
    switch (role) {
        case Qt::ToolTipRole:
            if (!row.summary.run.damage.empty()) return QString::fromStdString(row.summary.run.damage);
            return row.cells[index.column()];
        case Qt::DisplayRole:
            if (index.column() == name && !row.summary.run.damage.empty())
                return tr("%1 · damaged").arg(row.cells[name]);
            return row.cells[index.column()];
        case Qt::ForegroundRole:
            return row.summary.run.damage.empty() ? QVariant() : QVariant(theme().lost);
        case Qt::FontRole:
            return index.column() == best ? number_font() : QVariant();
        case Qt::TextAlignmentRole:
            return is_number(index.column()) ? QVariant(int(Qt::AlignRight | Qt::AlignVCenter)) : QVariant();
        case run_role:
            return QVariant::fromValue<qlonglong>(row.summary.run.id.value);
        default:
            return {};
    }
}

QVariant RunTree::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || section < 0 || section >= column_count) return {};
    if (role == Qt::DisplayRole) return tr(titles[section]);
    if (role == Qt::TextAlignmentRole && is_number(section)) return int(Qt::AlignRight | Qt::AlignVCenter);
    return {};
}

}  // namespace rendak::app
