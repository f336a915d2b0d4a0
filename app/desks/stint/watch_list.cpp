#include "app/desks/stint/watch_list.h"

#include <QHeaderView>
#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int rule_role = Qt::UserRole, moment_role = Qt::UserRole + 1;

QString with_usual_unit(const std::string& quantity, const std::string& unit, double si) {
    if (!std::isfinite(si)) return {};
    const Shown how = shown(quantity);
    if (find_quantity(quantity) != nullptr) return with_unit(how.text(si), how.unit);
    return with_unit(QString::number(si, 'g', 4), QString::fromStdString(unit));
}

}  // namespace

QString watch_value(const WatchRule& rule, const WatchTold& told, double si) {
    return rule.value.empty() ? QString() : with_usual_unit(rule.value, told.value_unit, si);
}

QString watch_words(const WatchShown& it) {
    const WatchTold& told = it.kept.told;
    std::set<int> laps;
    std::map<QString, int> places;
    int outside = 0;
    QStringList kinds;
    for (const WatchEvent& event : told.events) {
        if (event.lap) laps.insert(*event.lap);
        const bool timed = event.lap && (event.kind == LapKind::flying || event.kind == LapKind::stopped);
        if (!timed) ++outside;
        if (event.lap && event.kind == LapKind::in && !kinds.contains(WatchList::tr("slow-down lap")))
            kinds << WatchList::tr("slow-down lap");
        if (event.lap && event.kind == LapKind::out && !kinds.contains(WatchList::tr("out lap")))
            kinds << WatchList::tr("out lap");
        if (event.place_m) ++places[place_name(*it.run->track, *event.place_m)];
    }
    QStringList out;
    if (!laps.empty())
        out << (laps.size() == 1 ? WatchList::tr("lap %1").arg(*laps.begin())
                                 : WatchList::tr("laps %1–%2").arg(*laps.begin()).arg(*laps.rbegin()));
    if (!places.empty()) {
        const auto most = std::max_element(places.begin(), places.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        out << (places.size() == 1 ? most->first
                                   : WatchList::tr("%1 and %2 more").arg(most->first).arg(places.size() - 1));
    }
    if (!kinds.isEmpty()) out << WatchList::tr("also on the %1").arg(kinds.join(WatchList::tr(" and ")));
    if (outside > 0 && kinds.isEmpty()) out << WatchList::tr("%1 outside of laps").arg(outside);
    out << counted(static_cast<qsizetype>(told.events.size()), WatchList::tr("time"), WatchList::tr("times"));
    return it.title + QStringLiteral(": ") + out.join(QStringLiteral(", "));
}

WatchList::WatchList(QWidget* parent) : QTreeWidget(parent) {
    setObjectName(QStringLiteral("watch-list"));
    setAccessibleName(tr("Watch rules on these recordings"));
    setColumnCount(2);
    setHeaderHidden(true);
    setUniformRowHeights(true);
    setIndentation(14);
    header()->setStretchLastSection(false);
    header()->setSectionResizeMode(0, QHeaderView::Stretch);
    header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    connect(this, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const QVariant rule = item->data(0, rule_role), moment = item->data(0, moment_role);
        if (rule.isValid() && moment.isValid())
            Q_EMIT moment_asked(shown_[static_cast<std::size_t>(rule.toInt())].run->row.id, moment.toDouble());
    });
}

const WatchShown* WatchList::chosen() const {
    const QTreeWidgetItem* item = currentItem();
    if (item == nullptr || !item->data(0, rule_role).isValid()) return nullptr;
    return &shown_[static_cast<std::size_t>(item->data(0, rule_role).toInt())];
}

void WatchList::set_shown(std::vector<WatchShown> shown) {
    clear();
    shown_ = std::move(shown);
    const Theme& t = theme();
    // What nobody has looked at first.
    std::vector<std::size_t> speaking;
    QStringList silent, open;
    for (std::size_t k = 0; k < shown_.size(); ++k) {
        const WatchShown& it = shown_[k];
        const QString name = QString::fromStdString(it.kept.rule.name);
        if (!it.kept.told.events.empty())
            speaking.push_back(k);
        else if (it.kept.told.why_not.empty() && !silent.contains(name))
            silent << name;
    }
    for (const WatchShown& it : shown_) {
        const QString name = QString::fromStdString(it.kept.rule.name);
        if (!it.kept.told.why_not.empty())
            open << tr("%1 on %2: %3").arg(name, it.title, QString::fromStdString(it.kept.told.why_not));
    }
    std::stable_sort(speaking.begin(), speaking.end(), [&](std::size_t a, std::size_t b) {
        return (shown_[a].kept.seen_unix_s == 0) > (shown_[b].kept.seen_unix_s == 0);
    });
    for (const std::size_t k : speaking) {
        const WatchShown& it = shown_[k];
        const bool seen = it.kept.seen_unix_s > 0;
        auto* rule = new QTreeWidgetItem(this);
        double worst = std::nan("");
        for (const WatchEvent& event : it.kept.told.events) {
            const double value = event.when.worst;
            if (std::isnan(worst) || (it.kept.rule.worst_is_low ? value < worst : value > worst)) worst = value;
        }
        rule->setText(
            0, (seen ? QStringLiteral("○  ") : QStringLiteral("●  ")) + QString::fromStdString(it.kept.rule.name));
        rule->setText(1, seen ? tr("looked at, %1").arg(date_time(it.kept.seen_unix_s))
                              : watch_value(it.kept.rule, it.kept.told, worst));
        rule->setFont(0, body_font(!seen));
        rule->setForeground(0, seen ? t.mute : t.ink);
        rule->setForeground(1, seen ? t.mute : t.lost);
        rule->setData(0, rule_role, static_cast<int>(k));
        rule->setToolTip(0, tr("Condition: %1").arg(QString::fromStdString(it.kept.rule.condition)));
        auto* words = new QTreeWidgetItem(rule);
        words->setText(0, watch_words(it));
        words->setForeground(0, t.lap(it.slot));
        words->setData(0, rule_role, static_cast<int>(k));
        if (!it.trend.isEmpty()) {
            auto* trend = new QTreeWidgetItem(rule);
            trend->setText(0, it.trend);
            trend->setToolTip(0, it.trend);
            trend->setForeground(0, t.mute);
            trend->setData(0, rule_role, static_cast<int>(k));
        }
        for (const WatchEvent& event : it.kept.told.events) {
            auto* line = new QTreeWidgetItem(words);
            QStringList said;
            said << (event.lap ? tr("lap %1").arg(*event.lap) : tr("outside of laps"));
            if (event.place_m) said << place_name(*it.run->track, *event.place_m);
            said << tr("%1 s").arg(event.when.time_s.length(), 0, 'f', 1);
            for (std::size_t b = 0; b < event.beside.size() && b < it.kept.rule.beside.size(); ++b) {
                const std::string& what = it.kept.rule.beside[b];
                const QString value = with_usual_unit(
                    what, b < it.kept.told.beside_units.size() ? it.kept.told.beside_units[b] : "", event.beside[b]);
                if (!value.isEmpty()) said << rendak::app::shown(what).label + u' ' + value;
            }
            line->setText(0, said.join(QStringLiteral(" · ")));
            line->setText(1, watch_value(it.kept.rule, it.kept.told, event.when.worst));
            line->setData(0, rule_role, static_cast<int>(k));
            line->setData(0, moment_role, event.when.worst_at_s);
            line->setToolTip(0, tr("Double click: that moment on Compare"));
        }
        rule->setExpanded(!seen);
    }
    // What several rules have in common, each under it.
    const auto list = [&](const QString& text, const QStringList& each) {
        auto* item = new QTreeWidgetItem(this);
        item->setText(0, text);
        item->setToolTip(0, tr("From power on to power off, out and in laps included"));
        item->setForeground(0, t.mute);
        for (const QString& one : each) {
            auto* child = new QTreeWidgetItem(item);
            child->setText(0, one);
            child->setToolTip(0, one);
            child->setForeground(0, t.mute);
        }
    };
    if (!silent.isEmpty()) list(tr("✓  Silent: %1").arg(silent.join(QStringLiteral(", "))), silent);
    if (!open.isEmpty()) list(tr("–  Cannot be told: %1").arg(counted(open.size(), tr("rule"), tr("rules"))), open);
}

}  // namespace rendak::app
