#include "app/desks/compare/overview_page.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "app/plot/view_out.h"
#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "app/theme/theme.h"
#include "core/analysis/run_differences.h"

namespace rendak::app {
namespace {

constexpr int edge_px = 6, row_px = 17, name_px = 96, number_px = 56;

QString tr(const char* text) {
    return QCoreApplication::translate("Overview", text);
}

QStringList who(const RunRow& run, double best_s) {
    QStringList out, names{text_of(run.driver), text_of(run.car)};
    names.removeAll(QString());
    if (!names.isEmpty()) out << names.join(QStringLiteral(", "));
    QStringList facts;
    if (!run.tyre_set.empty())
        facts << (run.tyre_laps ? tr("tyres %1, %2 laps old").arg(text_of(run.tyre_set)).arg(*run.tyre_laps, 0, 'f', 0)
                                : tr("tyres %1").arg(text_of(run.tyre_set)));
    if (!run.weather.empty()) facts << text_of(run.weather);
    if (!facts.isEmpty()) out << facts.join(QStringLiteral(", "));
    out << tr("best %1").arg(lap_time(best_s));
    return out;
}

double best_of(std::span<const PreparedLap> laps) {
    double out = laps.front().time_s();
    for (const PreparedLap& lap : laps) out = std::min(out, lap.time_s());
    return out;
}

}  // namespace

OverviewTold overview_told(std::span<const PreparedLap> a, std::span<const PreparedLap> b, const LapStory& story,
                           const RunRow& run_a, const RunRow& run_b, const QString& a_name, const QString& b_name,
                           const WordUnits& names) {
    OverviewTold out;
    out.track = a.front().track;
    out.a_name = a_name;
    out.b_name = b_name;
    out.a_who = who(run_a, best_of(a));
    out.b_who = who(run_b, best_of(b));
    if (run_a.id != run_b.id) {
        const auto differences = differences_between(run_a, run_b, {}, {});
        for (const auto* texts : {&differences.changes, &differences.others}) {
            for (const std::string& it : *texts) out.not_the_same << text_of(it);
        }
    }
    out.overview = overview_of(a, b, story, names);
    return out;
}

OverviewPage::OverviewPage(std::shared_ptr<const OverviewTold> told, int width)
    : told_(std::move(told)), width_(width) {
    using Kind = Line::Kind;
    const LapOverview& it = told_->overview;
    height_ = edge_px;
    add(Kind::name, told_->a_name);
    for (const QString& line : told_->a_who) add(Kind::text, line);
    add(Kind::name, told_->b_name);
    for (const QString& line : told_->b_who) add(Kind::text, line);
    add(Kind::text, told_->not_the_same.isEmpty()
                        ? tr("Nothing is noted that is not the same.")
                        : tr("Not the same: %1.").arg(told_->not_the_same.join(QStringLiteral(", "))));
    const auto rows = [&](Kind kind, const std::vector<SideSection>& all, auto wanted) {
        for (std::size_t k = 0; k < all.size(); ++k) {
            if (!wanted(all[k])) continue;
            const Section& section = all[k].section;
            lines_.push_back({kind, text_of(section.name), section.corner, section.range_m.begin, k,
                              QRect(edge_px, height_, width_ - 2 * edge_px, row_px)});
            height_ += row_px;
        }
    };
    add(Kind::heading,
        told_->overview.sectors.size() > 1 ? tr("By sectors: A, B, B − A, s") : tr("The lap: A, B, B − A, s"));
    rows(Kind::sector, it.sectors, [](const SideSection&) { return true; });
    add(Kind::heading, tr("In words"));
    for (const auto& sentence : it.in_words) add(Kind::words, text_of(sentence.text), sentence.corner, sentence.at_m);
    add(Kind::heading, tr("What to do first, one thing at a time"));
    if (it.first.empty()) add(Kind::text, tr("Nothing stands out that could be worked on."));
    constexpr std::size_t most_first = 5;
    for (std::size_t k = 0; k < std::min(most_first, it.first.size()); ++k)
        add(Kind::first, text_of(it.first[k].text), it.first[k].corner, it.first[k].at_m);
    add(Kind::heading, tr("The best of both: %1").arg(lap_time(it.both.lap_s)));
    add(Kind::text, tr("Made of each one's best sections. It asks %1 s of %2, %3 s of %4.")
                        .arg(QString::number(it.both.a_asks_s, 'f', 2), told_->a_name,
                             QString::number(it.both.b_asks_s, 'f', 2), told_->b_name));
    rows(Kind::section, it.both.sections,
         [](const SideSection& row) { return row.better != SideSection::Better::neither; });
    height_ += edge_px;
}

void OverviewPage::add(Line::Kind kind, const QString& text, int corner, double at_m) {
    const bool bold = kind == Line::Kind::name || kind == Line::Kind::heading;
    if (kind == Line::Kind::heading) height_ += 6;
    const QFontMetrics metrics(bold ? body_font(true) : small_font());
    const QRect used = metrics.boundingRect(QRect(0, 0, std::max(80, width_ - 2 * edge_px), 4000),
                                            Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, text);
    lines_.push_back({kind, text, corner, at_m, 0, QRect(edge_px, height_, width_ - 2 * edge_px, used.height())});
    height_ += used.height() + 3;
}

void OverviewPage::paint_row(QPainter& painter, const Line& line, const SideSection& row, double most_s) const {
    const Theme& t = theme();
    painter.setFont(small_font());
    painter.setPen(t.ink);
    const QRect area = line.area;
    painter.drawText(QRect(area.left(), area.top(), name_px, area.height()), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(line.text, Qt::ElideRight, name_px));
    const bool best = line.kind == Line::Kind::section;
    const double a = best ? row.a_best_s : row.a_s, b = best ? row.b_best_s : row.b_s, more = b - a;
    const int decimals = best ? 2 : 3;
    painter.drawText(QRect(area.left() + name_px, area.top(), number_px, area.height()),
                     Qt::AlignRight | Qt::AlignVCenter, QString::number(a, 'f', decimals));
    painter.drawText(QRect(area.left() + name_px + number_px, area.top(), number_px, area.height()),
                     Qt::AlignRight | Qt::AlignVCenter, QString::number(b, 'f', decimals));
    const int left = area.left() + name_px + 2 * number_px + 8, right = area.right() - number_px;
    const double zero = 0.5 * (left + right), long_px = std::abs(more) / most_s * 0.5 * (right - left);
    const bool sure = !row.likely_s || !row.likely_s->contains(0);
    QColor tone = more > 0 ? t.lost : t.won;
    if (!sure) tone.setAlphaF(0.35F);
    if (right > left)
        painter.fillRect(QRectF(more > 0 ? zero : zero - long_px, area.top() + 4, long_px, area.height() - 8), tone);
    painter.setPen(t.rule);
    painter.drawLine(QPointF(zero, area.top()), QPointF(zero, area.bottom() + 1));
    painter.setPen(!sure ? t.mute : more > 0 ? t.lost : t.won);
    painter.setFont(small_font(sure));
    painter.drawText(QRect(right, area.top(), number_px, area.height()), Qt::AlignRight | Qt::AlignVCenter,
                     signed_number(more, decimals));
}

void OverviewPage::paint(QPainter& painter) const {
    const Theme& t = theme();
    double most_sector = 0.05, most_section = 0.05;
    for (const SideSection& it : told_->overview.sectors)
        most_sector = std::max(most_sector, std::abs(it.b_s - it.a_s));
    for (const SideSection& it : told_->overview.both.sections)
        most_section = std::max(most_section, std::abs(it.b_best_s - it.a_best_s));
    bool first_name = true;
    for (const Line& line : lines_) {
        switch (line.kind) {
            case Line::Kind::sector:
                paint_row(painter, line, told_->overview.sectors[line.row], most_sector);
                continue;
            case Line::Kind::section:
                paint_row(painter, line, told_->overview.both.sections[line.row], most_section);
                continue;
            case Line::Kind::name:
                painter.setPen(t.lap(std::exchange(first_name, false) ? 0 : told_->b_slot));
                painter.setFont(body_font(true));
                break;
            case Line::Kind::heading:
                painter.setPen(t.rule);
                painter.drawLine(line.area.left(), line.area.top() - 3, line.area.right(), line.area.top() - 3);
                painter.setPen(t.ink);
                painter.setFont(body_font(true));
                break;
            case Line::Kind::first:
                painter.setPen(t.accent);
                painter.setFont(small_font());
                break;
            case Line::Kind::text:
                painter.setPen(t.mute);
                painter.setFont(small_font());
                break;
            case Line::Kind::words:
                painter.setPen(t.ink);
                painter.setFont(small_font());
                break;
        }
        painter.drawText(line.area.adjusted(0, 0, 0, 4), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, line.text);
    }
}

QString OverviewPage::data_text() const {
    QString out = tr("Section,From [m],To [m],A [s],B [s],A best [s],B best [s],Low [s],High [s]") + u'\n';
    const auto number = [](double value) { return QString::number(value, 'f', 4); };
    for (const auto* all : {&told_->overview.sectors, &told_->overview.both.sections}) {
        for (const SideSection& it : *all)
            out += QStringList{csv_cell(text_of(it.section.name)),
                               QString::number(it.section.range_m.begin, 'f', 1),
                               QString::number(it.section.range_m.end, 'f', 1),
                               number(it.a_s),
                               number(it.b_s),
                               number(it.a_best_s),
                               number(it.b_best_s),
                               it.likely_s ? number(it.likely_s->begin) : QString(),
                               it.likely_s ? number(it.likely_s->end) : QString()}
                       .join(u',') +
                   u'\n';
    }
    return out;
}

}  // namespace rendak::app
