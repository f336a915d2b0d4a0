#include "app/desks/compare/pair_picture.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/theme/theme.h"

namespace rendak::app {
namespace {

/// Of a lap: enough for a picture, and soon counted whatever the length of the recording.
constexpr std::size_t most_samples = 200'000;

/// "Speed [km/h]"
QString head_of(const Shown& how) {
    return csv_cell(how.unit.isEmpty() ? how.label : QStringLiteral("%1 [%2]").arg(how.label, how.unit));
}

}  // namespace

Interval looked_at_s(const Comparison& comparison, int slot) {
    const LapMap& map = comparison.laps().laps[static_cast<std::size_t>(slot)].lap.map;
    const Interval view = comparison.view();
    if (comparison.axis() == Axis::run) return {map.start_s() + view.begin, map.start_s() + view.end};
    return {map.time_at(view.begin), map.time_at(view.end)};
}

RangePicture::RangePicture(Focus& focus, Comparison& comparison, const QString& name, QWidget* parent)
    : KeptPicture(parent), comparison_(comparison) {
    setAccessibleName(name);
    setMinimumHeight(160);
    connect(&comparison_, &Comparison::changed, this, &RangePicture::forget);
    connect(&focus, &Focus::range_changed, this, &RangePicture::forget);
    connect(&focus, &Focus::axis_changed, this, &RangePicture::forget);
    connect(&focus, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
}

void RangePicture::show_side(TurnSide side) {
    side_ = side;
    forget();
}

void RangePicture::forget() {
    forget_plot();
    invalidate();
}

void RangePicture::want() {
    if (isVisible()) comparison_.want(this, quantities(), Axis::distance);
    forget();
}

QString RangePicture::why_not() const {
    for (const std::string& id : quantities()) {
        if (comparison_.ready(id)) continue;
        const QString why = comparison_.why_not(id);
        return why.isEmpty() ? tr("Computing %1 …").arg(shown(id).label) : why;
    }
    return {};
}

void RangePicture::showEvent(QShowEvent* event) {
    want();
    KeptPicture::showEvent(event);
}

PairPicture::PairPicture(Focus& focus, Comparison& comparison, bool circle, QWidget* parent)
    : RangePicture(focus, comparison,
                   circle ? tr("Friction circle of the picked laps") : tr("Two channels against each other"), parent),
      circle_(circle) {}

void PairPicture::show_quantities(const std::string& x, const std::string& y, const std::string& z) {
    x_ = x;
    y_ = y;
    z_ = z;
    want();
}

std::vector<std::string> PairPicture::quantities() const {
    std::vector<std::string> out{x_, y_};
    if (!z_.empty()) out.push_back(z_);
    return out;
}

const PairPlot& PairPicture::plot() {
    if (!plot_) fill();
    return *plot_;
}

void PairPicture::fill() {
    plot_.emplace();
    plot_->circle = circle_;
    plot_->x = shown(x_);
    plot_->y = shown(y_);
    if (!z_.empty()) plot_->z = shown(z_);
    samples_.clear();
    const auto& laps = comparison_.laps().laps;
    if (laps.empty()) return;
    plot_->message = why_not();
    if (!plot_->message.isEmpty()) return;
    std::size_t points = 0;
    samples_.reserve(laps.size());
    for (std::size_t k = 0; k < laps.size(); ++k) {
        const int slot = static_cast<int>(k);
        samples_.push_back(
            paired_samples(laps[k].lap, x_, y_, z_, looked_at_s(comparison_, slot), side_, most_samples));
        const PairedSamples& found = samples_.back();
        PairSeries series{found.x, found.y, found.z, theme().lap(slot), slot_letter(slot)};
        if (circle_)
            series.reach = outline(found.x, found.y);
        else
            series.fit = fit_line(found.x, found.y);
        points += found.size();
        plot_->every = std::max(plot_->every, found.every);
        plot_->series.push_back(std::move(series));
    }
    if (points == 0)
        plot_->message = side_ == TurnSide::both
                             ? tr("%1 and %2 are not both logged here").arg(plot_->x.label, plot_->y.label)
                             : tr("No corner to that side in this range");
    plot_->fit_axes();
}

ViewOut PairPicture::out(const QString& name) {
    return {name, size(), [this](QPainter& painter, QSize size) { paint_lines(plot(), painter, size); },
            [this] { return at_hand(data_text()); }};
}

QString PairPicture::data_text() {
    const PairPlot& now = plot();
    if (!now.message.isEmpty()) return {};
    QString out = tr("Lap") + u',' + head_of(now.x) + u',' + head_of(now.y) +
                  (now.z ? u',' + head_of(*now.z) : QString()) + u'\n';
    for (const PairSeries& series : now.series) {
        for (std::size_t i = 0; i < series.x.size(); ++i) {
            out += series.letter + u',' + QString::number(now.x.from_si(series.x[i]), 'g', 7) + u',' +
                   QString::number(now.y.from_si(series.y[i]), 'g', 7);
            if (now.z) out += u',' + QString::number(now.z->from_si(series.z[i]), 'g', 7);
            out += u'\n';
        }
    }
    return out;
}

void PairPicture::draw_picture(QImage& image) {
    paint(plot(), image, size());
}

void PairPicture::draw_over(QPainter& painter) {
    if (!plot_ || samples_.size() != comparison_.laps().laps.size()) return;
    for (std::size_t k = 0; k < plot_->series.size(); ++k) {
        const double x = comparison_.value_at_cursor(static_cast<int>(k), x_),
                     y = comparison_.value_at_cursor(static_cast<int>(k), y_);
        plot_->series[k].now = std::isfinite(x) && std::isfinite(y) ? std::optional(QPointF(x, y)) : std::nullopt;
    }
    paint_now(*plot_, painter, size());
}

void PairPicture::mousePressEvent(QMouseEvent* event) {
    if (!plot_ || event->button() != Qt::LeftButton || samples_.size() != comparison_.laps().laps.size()) return;
    const Scale x = plot_->x_scale(size()), y = plot_->y_scale(size());
    const QPointF at = event->position();
    double best = 10 * 10;  // pixels, squared
    std::optional<std::pair<int, double>> moment;
    for (std::size_t k = 0; k < samples_.size(); ++k) {
        for (std::size_t i = 0; i < samples_[k].size(); ++i) {
            const double dx = x.to_pixel(plot_->x.from_si(samples_[k].x[i])) - at.x(),
                         dy = y.to_pixel(plot_->y.from_si(samples_[k].y[i])) - at.y();
            const double away = dx * dx + dy * dy;
            if (away >= best) continue;
            best = away;
            moment = {static_cast<int>(k), samples_[k].time_s[i]};
        }
    }
    if (!moment) return;
    const LapMap& map = comparison_.laps().laps[static_cast<std::size_t>(moment->first)].lap.map;
    comparison_.set_cursor_in_view(comparison_.axis() == Axis::run ? moment->second - map.start_s()
                                                                   : map.distance_at(moment->second));
}

SharePicture::SharePicture(Focus& focus, Comparison& comparison, QWidget* parent)
    : RangePicture(focus, comparison, tr("Shares of a channel's values"), parent) {}

void SharePicture::show_quantity(const std::string& quantity) {
    quantity_ = quantity;
    step_ = 0;
    want();
}

void SharePicture::show_share_of(ShareOf of) {
    of_ = of;
    forget();
}

void SharePicture::show_step(double step) {
    step_ = step;
    forget();
}

const SharePlot& SharePicture::plot() {
    if (!plot_) fill();
    return *plot_;
}

void SharePicture::fill() {
    plot_.emplace();
    plot_->how = shown(quantity_);
    plot_->of_distance = of_ == ShareOf::distance;
    const auto& laps = comparison_.laps().laps;
    if (laps.empty()) return;
    plot_->message = why_not();
    if (!plot_->message.isEmpty()) return;
    double low = std::numeric_limits<double>::infinity(), high = -low;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        const RangeFigures found =
            figures_in_time(laps[k].lap, quantity_, looked_at_s(comparison_, static_cast<int>(k)));
        if (std::isnan(found.low)) continue;
        low = std::min(low, found.low);
        high = std::max(high, found.high);
    }
    if (!(low <= high)) {
        plot_->message = tr("%1 is not logged here").arg(plot_->how.label);
        return;
    }
    // Steps are round in the unit that is shown.
    const double step = (step_ > 0 ? step_ : usual_step((high - low) / plot_->how.factor)) * plot_->how.factor;
    bool any = false;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        const int slot = static_cast<int>(k);
        ShareSeries series{
            shares_of(laps[k].lap, quantity_, looked_at_s(comparison_, slot), of_, step, side_, most_samples),
            theme().lap(slot), slot_letter(slot)};
        any = any || !series.shares.share.empty();
        plot_->every = std::max(plot_->every, series.shares.every);
        plot_->series.push_back(std::move(series));
    }
    if (!any)
        plot_->message = side_ != TurnSide::both ? no_corner()
                         : of_ == ShareOf::distance
                             ? tr("Without a speed there is no way to share out; or the step is too small")
                             : tr("The step is too small for these values");
}

ViewOut SharePicture::out(const QString& name) {
    return {name, size(), [this](QPainter& painter, QSize size) { paint(plot(), painter, size); },
            [this] { return at_hand(data_text()); }};
}

QString SharePicture::data_text() {
    const SharePlot& now = plot();
    if (!now.message.isEmpty()) return {};
    QString out = tr("Lap") + u',' + head_of(now.how) + tr(" from,to,Share") + u'\n';
    for (const ShareSeries& series : now.series) {
        for (std::size_t k = 0; k < series.shares.share.size(); ++k) {
            const double from = series.shares.begin + series.shares.step * static_cast<double>(k);
            out += QStringList{series.letter, QString::number(now.how.from_si(from), 'g', 7),
                               QString::number(now.how.from_si(from + series.shares.step), 'g', 7),
                               QString::number(series.shares.share[k], 'f', 6)}
                       .join(u',') +
                   u'\n';
        }
    }
    return out;
}

void SharePicture::draw_picture(QImage& image) {
    QPainter painter(&image);
    paint(plot(), painter, size());
}

void SharePicture::draw_over(QPainter& painter) {
    if (!plot_ || !plot_->message.isEmpty()) return;
    const Scale x = plot_->x_scale(size());
    const QRect area = SharePlot::plot_area(size());
    for (std::size_t k = plot_->series.size(); k-- > 0;) {
        const double value = comparison_.value_at_cursor(static_cast<int>(k), quantity_);
        if (!std::isfinite(value)) continue;
        painter.setPen(QPen(plot_->series[k].colour, 1.4, Qt::DashLine));
        const double px = std::clamp(x.to_pixel(value), double(area.left()), double(area.right()));
        painter.drawLine(QPointF(px, area.top()), QPointF(px, area.bottom()));
    }
}

}  // namespace rendak::app
