#include "app/film/film_tile.h"

#include <QLineF>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

#include "app/text/shown.h"
#include "app/theme/film_colours.h"
#include "app/theme/theme.h"

namespace rendak::app {

FilmTile::FilmTile(QWidget* parent) : QWidget(parent) {
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setToolTip(tr("Double-click to see it large, and back; drag a figure to where it is wanted"));
    setMouseTracking(true);
}

void FilmTile::set_film(std::optional<Of> of) {
    if (of_) disconnect(of_->source.get(), nullptr, this, nullptr);
    of_ = std::move(of);
    held_film_s_.reset();
    wanted_.reset();
    if (of_)
        connect(of_->source.get(), &FilmSource::changed, this, [this] {
            ask();
            update();
        });
    setAccessibleName(of_ ? slot_letter(of_->slot) + u' ' + QString::fromStdString(of_->film.title()) : QString());
    ask();
    update();
}

void FilmTile::set_place(const std::optional<FilmPlace>& place) {
    if (!of_) return;
    of_->place = place;
    ask();
    update();
}

void FilmTile::set_style(const FilmStyle& style) {
    style_ = style;
    update();
}

void FilmTile::show_moment(double run_s) {
    run_s_ = run_s;
    ask();
    // A frame that is on its way is painted with its figures when it comes; one that takes its time is not waited for.
    constexpr qint64 patience_ms = 60;
    const bool comes = of_ && wanted_ && of_->source->shown() != wanted_;
    if (!comes || !painted_.isValid() || painted_.elapsed() > patience_ms) update();
}

void FilmTile::hold(bool on) {
    held_film_s_ = on ? std::optional(film_s()) : std::nullopt;
    ask();
    update();
}

double FilmTile::film_s() const {
    if (held_film_s_) return *held_film_s_;
    // A film that is not in step shows its beginning as the lap's.
    if (!of_) return 0;
    return of_->place ? of_->place->at.film_s(run_s_) : run_s_ - of_->moments->lap().map.start_s();
}

std::optional<FilmSpeaker::Wish> FilmTile::sound(double times) const {
    if (!of_ || holds() || !of_->place || !of_->source->facts() || !of_->source->facts()->sound) return std::nullopt;
    const double at_s = film_s();
    if (at_s < 0 || at_s > of_->source->facts()->duration_s) return std::nullopt;
    return FilmSpeaker::Wish{of_->source->files(), at_s, times};
}

void FilmTile::ask() {
    wanted_.reset();
    if (!of_ || !of_->source->facts()) return;
    wanted_ = of_->source->frame_at(film_s());
    if (wanted_) of_->source->ask(*wanted_, picture_box().toAlignedRect().size() * devicePixelRatioF());
}

bool FilmTile::up_to_date() const {
    if (!of_ || of_->source->error()) return true;
    if (!of_->source->facts()) return false;
    return !of_->source->busy() && (!wanted_ || of_->source->shown() == wanted_);
}

QRectF FilmTile::picture_box() const {
    QSizeF size(16, 9);
    if (of_ && of_->source->facts()) size = QSizeF(of_->source->facts()->width, of_->source->facts()->height);
    size.scale(QSizeF(width(), height()), Qt::KeepAspectRatio);
    return {QPointF((width() - size.width()) / 2, (height() - size.height()) / 2), size};
}

QString FilmTile::message() const {
    if (!of_) return tr("No film");
    if (of_->source->error()) return QString::fromStdString(of_->source->error()->message);
    if (!of_->source->facts()) return tr("The film is being opened …");
    if (!wanted_) return tr("The film does not cover this place.");
    if (of_->source->shown() == wanted_ && of_->source->image().isNull())
        return tr("This frame is damaged and cannot be shown.");
    return {};
}

void FilmTile::set_active(bool on) {
    active_ = on;
    update();
}

void FilmTile::paintEvent(QPaintEvent*) {
    painted_.start();
    const Theme& t = theme();
    const FilmColours& c = film_colours();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    QColor ground = c.ground;
    ground.setAlpha(255);
    painter.fillRect(rect(), ground);
    const QRectF box = picture_box();
    const QString said = message();
    if (said.isEmpty()) {
        // While the frame is on its way the one before stands; what it says is of the frame that is wanted.
        const QImage& image = of_->source->image();
        const QSize wanted = box.toAlignedRect().size() * devicePixelRatioF();
        // One that has the size of its place is not scaled anew.
        if (!image.isNull() && std::abs(image.width() - wanted.width()) <= 1 &&
            std::abs(image.height() - wanted.height()) <= 1)
            painter.drawImage(QRectF(box.toAlignedRect().topLeft(), QSizeF(image.size()) / devicePixelRatioF()), image);
        else if (!image.isNull())
            painter.drawImage(box, image);
        if (of_->place) paint_film_figures(painter, box, moment(), style_);
    } else {
        painter.setPen(c.quiet);
        painter.setFont(body_font());
        painter.drawText(rect().adjusted(12, 12, -12, -12), Qt::AlignCenter | Qt::TextWordWrap, said);
    }
    if (of_ && !of_->place) {
        painter.setFont(body_font(true));
        painter.setPen(c.ink);
        const QRectF note(8, height() - 30, width() - 16, 22);
        painter.drawText(note, Qt::AlignLeft | Qt::AlignVCenter, tr("Not in step with the data yet"));
    }
    if (holds()) {
        painter.setFont(body_font(true));
        painter.setPen(c.ink);
        painter.drawText(QRectF(8, 8, width() - 16, 22), Qt::AlignRight | Qt::AlignVCenter, tr("held"));
    }
    if (active_) {
        painter.setPen(QPen(t.accent, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
    }
}

FilmMoment FilmTile::moment() const {
    return of_->moments->at(of_->place->at.run_s(film_s()));
}

std::optional<FigureBox> FilmTile::figure_at(QPointF at) const {
    if (!of_ || !of_->place || !message().isEmpty()) return std::nullopt;
    for (const FigureBox& it : film_figure_boxes(picture_box(), moment(), style_))
        if (it.box.contains(at)) return it;
    return std::nullopt;
}

void FilmTile::mousePressEvent(QMouseEvent* event) {
    Q_EMIT chosen();
    if (event->button() != Qt::LeftButton) return;
    if (const auto it = figure_at(event->position()))
        drag_ = Drag{it->figure, event->position(), it->box.center() - event->position()};
}

void FilmTile::mouseMoveEvent(QMouseEvent* event) {
    if (!drag_) {
        setCursor(figure_at(event->position()) ? Qt::OpenHandCursor : Qt::ArrowCursor);
        return;
    }
    // A click is none.
    constexpr double least_px = 5;
    if (!drag_->moved && QLineF(drag_->pressed, event->position()).length() < least_px) return;
    drag_->moved = true;
    setCursor(Qt::ClosedHandCursor);
    const QRectF box = picture_box();
    const QPointF middle = event->position() + drag_->from_middle - box.topLeft();
    style_.moved[drag_->figure] = {std::clamp(middle.x() / box.width(), 0.0, 1.0),
                                   std::clamp(middle.y() / box.height(), 0.0, 1.0)};
    update();
}

void FilmTile::mouseReleaseEvent(QMouseEvent*) {
    if (!drag_) return;
    const bool moved = drag_->moved;
    drag_.reset();
    setCursor(Qt::OpenHandCursor);
    if (moved) Q_EMIT style_changed(style_);
}

void FilmTile::mouseDoubleClickEvent(QMouseEvent*) {
    Q_EMIT enlarged();
}

void FilmTile::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    ask();
}

}  // namespace rendak::app
