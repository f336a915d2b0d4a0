#pragma once

#include <QObject>
#include <QString>
#include <optional>

#include "core/base/interval.h"

namespace rendak::app {

/// The x axis that a plot shares with others: what is in view, how far it can go, where the cursor stands. A plot of
/// laps gets the focus's (FocusAxis); one without laps has its own (OwnAxis).
class PlotAxis : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    /// There is something to show.
    [[nodiscard]] virtual bool active() const = 0;
    [[nodiscard]] virtual Interval view() const = 0;
    [[nodiscard]] virtual Interval limits() const = 0;
    /// The shortest stretch that can be looked at.
    [[nodiscard]] virtual double closest() const = 0;
    [[nodiscard]] virtual double cursor() const = 0;
    virtual void set_view(Interval view) = 0;
    virtual void set_cursor(double at) = 0;
    /// A second place that stays while the cursor goes on; an axis may have none.
    [[nodiscard]] virtual std::optional<double> pin() const { return std::nullopt; }
    virtual void set_pin(std::optional<double> /*at*/) {}
    /// What is drawn at a place of the view, and back: the same unless the drawing has an axis of its own.
    [[nodiscard]] virtual double drawn(double at) const { return at; }
    [[nodiscard]] virtual double at(double drawn) const { return drawn; }

  Q_SIGNALS:
    void view_changed();
    void cursor_changed();
    /// From now on in another unit: views of before mean nothing.
    void unit_changed();
};

/// An axis of one plot alone.
class OwnAxis : public PlotAxis {
    Q_OBJECT
  public:
    using PlotAxis::PlotAxis;
    void set_limits(Interval limits, double closest) {
        limits_ = view_ = limits;
        closest_ = closest;
        Q_EMIT view_changed();
    }
    [[nodiscard]] bool active() const override { return limits_.length() > 0; }
    [[nodiscard]] Interval view() const override { return view_; }
    [[nodiscard]] Interval limits() const override { return limits_; }
    [[nodiscard]] double closest() const override { return closest_; }
    [[nodiscard]] double cursor() const override { return cursor_; }
    void set_view(Interval view) override {
        view_ = moved_inside(view, limits_);
        Q_EMIT view_changed();
    }
    void set_cursor(double at) override {
        cursor_ = limits_.clamp(at);
        Q_EMIT cursor_changed();
    }

  private:
    Interval limits_, view_;
    double closest_ = 1, cursor_ = 0;
};

}  // namespace rendak::app
