#pragma once

#include "app/focus/comparison.h"
#include "app/plot/kept_picture.h"
#include "app/plot/pair_plot.h"
#include "app/plot/view_out.h"

namespace rendak::app {

/// Recording time of a slot over what is looked at: the range, or on the run axis the view.
[[nodiscard]] Interval looked_at_s(const Comparison& comparison, int slot);

/// A picture of some quantities of the picked laps over the range, all turns or those to one side. Worked out when it
/// is painted, and only while it is looked at.
class RangePicture : public KeptPicture {
    Q_OBJECT
  public:
    RangePicture(Focus& focus, Comparison& comparison, const QString& name, QWidget* parent = nullptr);
    void show_side(TurnSide side);

  protected:
    [[nodiscard]] virtual std::vector<std::string> quantities() const = 0;
    virtual void forget_plot() = 0;

    void forget();
    /// Other quantities than before.
    void want();
    /// Why the quantities cannot be shown yet, or at all; empty when they can.
    [[nodiscard]] QString why_not() const;
    [[nodiscard]] QString no_corner() const { return tr("No corner to that side in this range"); }
    void showEvent(QShowEvent* event) override;

    Comparison& comparison_;
    TurnSide side_ = TurnSide::both;
};

/// Two quantities against each other: the friction circle, or any scatter. A click puts the cursor on the moment of the
/// nearest point.
class PairPicture : public RangePicture {
    Q_OBJECT
  public:
    PairPicture(Focus& focus, Comparison& comparison, bool circle, QWidget* parent = nullptr);
    void show_quantities(const std::string& x, const std::string& y, const std::string& z);
    [[nodiscard]] const std::string& x() const { return x_; }
    [[nodiscard]] const std::string& y() const { return y_; }
    [[nodiscard]] const std::string& z() const { return z_; }
    /// What is painted now.
    [[nodiscard]] const PairPlot& plot();
    [[nodiscard]] ViewOut out(const QString& name);

  protected:
    [[nodiscard]] std::vector<std::string> quantities() const override;
    void forget_plot() override { plot_.reset(); }
    void draw_picture(QImage& image) override;
    void draw_over(QPainter& painter) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    void fill();
    [[nodiscard]] QString data_text();

    bool circle_;
    std::string x_, y_, z_;
    std::vector<PairedSamples> samples_;
    std::optional<PairPlot> plot_;
};

/// How much of the range the picked laps spend in each step of a quantity's values.
class SharePicture : public RangePicture {
    Q_OBJECT
  public:
    SharePicture(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    void show_quantity(const std::string& quantity);
    void show_share_of(ShareOf of);
    /// In the unit shown; 0: a usual one.
    void show_step(double step);
    [[nodiscard]] const std::string& quantity() const { return quantity_; }
    [[nodiscard]] const SharePlot& plot();
    [[nodiscard]] ViewOut out(const QString& name);

  protected:
    [[nodiscard]] std::vector<std::string> quantities() const override { return {quantity_}; }
    void forget_plot() override { plot_.reset(); }
    void draw_picture(QImage& image) override;
    void draw_over(QPainter& painter) override;

  private:
    void fill();
    [[nodiscard]] QString data_text();

    std::string quantity_ = "speed";
    ShareOf of_ = ShareOf::time;
    double step_ = 0;
    std::optional<SharePlot> plot_;
};

}  // namespace rendak::app
