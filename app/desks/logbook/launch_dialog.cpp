#include "app/desks/logbook/launch_dialog.h"

#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/plot/scale.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/track/speed_source.h"

namespace rendak::app {
namespace {

/// Speed from some seconds before the line to some after it; a press or drag moves the line.
class SpeedView : public QWidget {
  public:
    SpeedView(const Recording& recording, QDoubleSpinBox& time)
        : speed_(recording, SpeedSource::Prefer::wheels), time_(time), span_(speed_.span_s()) {
        setMinimumSize(560, 220);
        setAccessibleName(QObject::tr("Speed around the launch"));
        middle_ = time.value();
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Theme& t = theme();
        QPainter painter(this);
        painter.fillRect(rect(), t.panel);
        painter.setRenderHint(QPainter::Antialiasing);
        const Scale x = x_scale();
        constexpr double most_mps = 15;
        const Scale y{{0, most_mps}, height() - 20.0, 8.0};
        painter.setFont(small_font());
        for (double s = std::ceil(x.values.begin); s < x.values.end; s += 1) {
            painter.setPen(t.grid);
            painter.drawLine(QPointF(x.to_pixel(s), 8), QPointF(x.to_pixel(s), height() - 20));
            painter.setPen(t.mute);
            painter.drawText(QRectF(x.to_pixel(s) - 20, height() - 18, 40, 14), Qt::AlignCenter,
                             QString::number(s, 'f', 0).replace(u'-', QChar(0x2212)));
        }
        QPolygonF line;
        for (int px = 0; px < width(); ++px) {
            const double v = speed_.at(x.to_value(px));
            if (std::isfinite(v)) line << QPointF(px, y.to_pixel(std::min(v, most_mps)));
        }
        painter.setPen(QPen(t.lap(0), 1.6));
        painter.drawPolyline(line);
        painter.setPen(QPen(t.accent, 2));
        painter.drawLine(QPointF(x.to_pixel(time_.value()), 0), QPointF(x.to_pixel(time_.value()), height() - 20));
        painter.setPen(t.mute);
        painter.drawText(QRectF(6, 4, 300, 14), Qt::AlignLeft,
                         QObject::tr("speed, 0 to %1 %2; seconds of the recording")
                             .arg(shown("speed").text(most_mps), shown("speed").unit));
    }
    void mousePressEvent(QMouseEvent* event) override { move_to(event->position().x()); }
    void mouseMoveEvent(QMouseEvent* event) override {
        if (event->buttons() & Qt::LeftButton) move_to(event->position().x());
    }

  private:
    [[nodiscard]] Scale x_scale() const { return {{middle_ - 4, middle_ + 6}, 0.0, double(width())}; }
    void move_to(double px) { time_.setValue(std::clamp(x_scale().to_value(px), span_.begin, span_.end)); }
    SpeedSource speed_;
    QDoubleSpinBox& time_;
    Interval span_;
    double middle_ = 0;
};

}  // namespace

LaunchDialog::LaunchDialog(std::shared_ptr<const Recording> recording, std::optional<double> found_s,
                           std::optional<double> set_s, QWidget* parent)
    : QDialog(parent), recording_(std::move(recording)), found_s_(found_s) {
    setWindowTitle(tr("Launch"));
    const SpeedSource speed(*recording_, SpeedSource::Prefer::wheels);
    auto* column = new QVBoxLayout(this);
    auto* hint = new PlainLabel(
        tr("Distance and time of the run count from here. Drag the line to where the driven wheels first move."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    time_ = new QDoubleSpinBox;
    time_->setRange(speed.span_s().begin, speed.span_s().end);
    time_->setDecimals(2);
    time_->setSingleStep(0.01);
    time_->setSuffix(QStringLiteral("\u2009s"));
    time_->setValue(set_s.value_or(found_s.value_or(speed.span_s().begin)));
    view_ = new SpeedView(*recording_, *time_);
    column->addWidget(view_, 1);
    auto* row = new QHBoxLayout;
    row->addWidget(new PlainLabel(tr("Launch at")));
    row->addWidget(time_);
    readout_ = new PlainLabel;
    row->addWidget(readout_, 1);
    auto* again = new QPushButton(tr("As found"));
    again->setEnabled(found_s.has_value());
    connect(again, &QPushButton::clicked, this, [this] { time_->setValue(*found_s_); });
    row->addWidget(again);
    column->addLayout(row);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    connect(time_, &QDoubleSpinBox::valueChanged, this, [this] {
        view_->update();
        show_readout();
    });
    show_readout();
}

void LaunchDialog::show_readout() {
    const SpeedSource speed(*recording_, SpeedSource::Prefer::wheels);
    const double v = speed.at(time_->value());
    const Shown how = shown("speed");
    readout_->setText(std::isfinite(v) ? tr("speed there: %1").arg(with_unit(how.text(v), how.unit))
                                       : tr("no speed there"));
}

std::optional<double> LaunchDialog::launch_s() const {
    if (found_s_ && std::abs(time_->value() - *found_s_) < 0.006) return std::nullopt;
    return time_->value();
}

}  // namespace rendak::app
