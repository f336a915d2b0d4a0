#include "app/desks/logbook/run_tree.h"

#include <QCoreApplication>
#include <QGuiApplication>
#include <QHash>
#include <QPainter>
#include <QPixmap>
#include <algorithm>
#include <map>

#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

QString number(const std::optional<double>& value, int decimals) {
    return value ? QString::number(*value, 'f', decimals) : QString();
}

constexpr double last = 1e300;  ///< missing numbers are sorted behind all others

/// A column of the list, in the order of RunTree::Column: what it is called, what stands in it, what it is sorted by.
struct ColumnKind {
    const char* key;    ///< in settings
    const char* title;  ///< to be translated
    QString (*text)(const RunSummary&);
    double (*number)(const RunSummary&) = nullptr;  ///< null: sorted by its text
    bool to_the_right = true;                       ///< of those with a number
};

constexpr ColumnKind columns[RunTree::column_count] = {
    {"name", QT_TRANSLATE_NOOP("RunTree", "Run"), [](const RunSummary& it) { return text_of(it.run.name); }},
    {"driver", QT_TRANSLATE_NOOP("RunTree", "Driver"), [](const RunSummary& it) { return text_of(it.run.driver); }},
    {"best", QT_TRANSLATE_NOOP("RunTree", "Best lap"),
     [](const RunSummary& it) { return it.best_s ? lap_time(*it.best_s) : QStringLiteral("–"); },
     [](const RunSummary& it) { return it.best_s.value_or(last); }},
    {"flying", QT_TRANSLATE_NOOP("RunTree", "Flying"), [](const RunSummary& it) { return QString::number(it.flying); },
     [](const RunSummary& it) { return static_cast<double>(it.flying); }},
    {"date", QT_TRANSLATE_NOOP("RunTree", "Date"),
     [](const RunSummary& it) {
         return it.run.start_unix_s ? date_time_with_zone(*it.run.start_unix_s, it.run.zone) : RunTree::tr("unknown");
     },
     [](const RunSummary& it) { return it.run.start_unix_s.value_or(last); }, false},
    {"tyres", QT_TRANSLATE_NOOP("RunTree", "Tyres"), [](const RunSummary& it) { return text_of(it.run.tyre_set); }},
    {"setup", QT_TRANSLATE_NOOP("RunTree", "Setup"), [](const RunSummary& it) { return text_of(it.run.setup_name); }},
    {"changes", QT_TRANSLATE_NOOP("RunTree", "Changes"), [](const RunSummary& it) { return text_of(it.run.changes); }},
    {"car", QT_TRANSLATE_NOOP("RunTree", "Car"), [](const RunSummary& it) { return text_of(it.run.car); }},
    {"track", QT_TRANSLATE_NOOP("RunTree", "Track"),
     [](const RunSummary& it) { return it.run.track ? text_of(it.run.track_name) : RunTree::tr("not known yet"); }},
    {"event", QT_TRANSLATE_NOOP("RunTree", "Event"), [](const RunSummary& it) { return text_of(it.run.event); }},
    {"session", QT_TRANSLATE_NOOP("RunTree", "Session"), [](const RunSummary& it) { return text_of(it.run.session); }},
    {"tyre_laps", QT_TRANSLATE_NOOP("RunTree", "Tyre laps"),
     [](const RunSummary& it) { return number(it.run.tyre_laps, 0); },
     [](const RunSummary& it) { return it.run.tyre_laps.value_or(last); }},
    {"fuel", QT_TRANSLATE_NOOP("RunTree", "Fuel"),
     [](const RunSummary& it) {
         return it.run.fuel_l ? with_unit(number(it.run.fuel_l, 0), QStringLiteral("l")) : QString();
     },
     [](const RunSummary& it) { return it.run.fuel_l.value_or(last); }},
    {"official", QT_TRANSLATE_NOOP("RunTree", "Official"),
     [](const RunSummary& it) { return it.run.official_time_s ? lap_time(*it.run.official_time_s) : QString(); },
     [](const RunSummary& it) { return it.run.official_time_s.value_or(last); }},
    {"weather", QT_TRANSLATE_NOOP("RunTree", "Weather"), [](const RunSummary& it) { return text_of(it.run.weather); }},
    {"remarks", QT_TRANSLATE_NOOP("RunTree", "Remarks"), [](const RunSummary& it) { return text_of(it.run.remarks); }},
    {"length", QT_TRANSLATE_NOOP("RunTree", "Length"),
     [](const RunSummary& it) {
         return with_unit(QString::number(it.run.duration_s / 60, 'f', 1), QStringLiteral("min"));
     },
     [](const RunSummary& it) { return it.run.duration_s; }},
    {"laps", QT_TRANSLATE_NOOP("RunTree", "Laps"), [](const RunSummary& it) { return QString::number(it.laps); },
     [](const RunSummary& it) { return static_cast<double>(it.laps); }},
    {"source", QT_TRANSLATE_NOOP("RunTree", "Source"),
     [](const RunSummary& it) { return text_of(it.run.source_name); }}};

QString title_of(int column) {
    return QCoreApplication::translate("RunTree", columns[column].title);
}

QStringList cells_of(const RunSummary& summary) {
    QStringList cells;
    for (const ColumnKind& column : columns) cells << column.text(summary);
    return cells;
}

bool is_number(int column) {
    return columns[column].number != nullptr && columns[column].to_the_right;
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

}  // namespace

/// A dot: somebody has to look.
namespace {
QPixmap unseen_mark() {
    constexpr int size = 9;
    const double scale = qApp->devicePixelRatio();
    QPixmap out(QSize(size, size) * scale);
    out.setDevicePixelRatio(scale);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().lost);
    painter.drawEllipse(QRectF(1, 1, size - 2, size - 2));
    return out;
}
}  // namespace

QString RunTree::key_of(int column) {
    return QString::fromLatin1(columns[column].key);
}

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

void RunTree::set_unseen(std::map<RunId, int> unseen) {
    if (unseen == unseen_) return;
    unseen_ = std::move(unseen);
    const auto tell = [this](const auto& self, const QModelIndex& parent) -> void {
        const int rows = rowCount(parent);
        if (rows > 0) Q_EMIT dataChanged(index(0, name, parent), index(rows - 1, name, parent));
        for (int row = 0; row < rows; ++row) self(self, index(row, 0, parent));
    };
    tell(tell, {});
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
                if (!title_of(column).toLower().remove(u' ').startsWith(word.left(colon))) continue;
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
    const auto number_of = columns[sort_column_].number;
    const bool by_number = number_of != nullptr;
    std::vector<QString> keys(runs_.size());
    for (const int i : shown) {
        const auto at = static_cast<std::size_t>(i);
        if (by_number)
            numbers[at] = number_of(runs_[at].summary);
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
    events.reserve(begins.size());
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
    for (int column = 0; column < column_count; ++column) cells << quoted(title_of(column));
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
            if (const auto it = unseen_.find(row.summary.run.id); index.column() == name && it != unseen_.end())
                return tr("%1: %2 not looked at yet (Stint desk)")
                    .arg(row.cells[name], counted(it->second, tr("watch rule spoke,"), tr("watch rules spoke,")));
            return row.cells[index.column()];
        case Qt::DecorationRole:
            return index.column() == name && unseen_.contains(row.summary.run.id) ? QVariant(unseen_mark())
                                                                                  : QVariant();
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
    if (role == Qt::DisplayRole) return title_of(section);
    if (role == Qt::TextAlignmentRole && is_number(section)) return int(Qt::AlignRight | Qt::AlignVCenter);
    return {};
}

}  // namespace rendak::app
