#pragma once

#include "app/focus/comparison.h"
#include "app/plot/kept_picture.h"
#include "app/plot/pair_plot.h"

namespace rendak::app {

/// Recording time of a slot over what is looked at: the range, or on the run axis the view.
[[nodiscard]] Interval looked_at_s(const Comparison& comparison, int slot);

/// Two quantities of the picked laps against each other, over the range: the friction circle, or any scatter. A click
/// puts the cursor on the moment of the nearest point.
class PairPicture : public KeptPicture {
    Q_OBJECT
  public:
    PairPicture(Focus& focus, Comparison& comparison, bool circle, QWidget* parent = nullptr);
    void show_quantities(const std::string& x, const std::string& y, const std::string& z);
    void show_side(TurnSide side);
    [[nodiscard]] TurnSide side() const { return side_; }
    [[nodiscard]] const std::string& x() const { return x_; }
    [[nodiscard]] const std::string& y() const { return y_; }
    [[nodiscard]] const std::string& z() const { return z_; }
    /// What is painted now, for tests.
    [[nodiscard]] const PairPlot& plot();
    [[nodiscard]] ViewOut out(const QString& name) override;

  protected:
    void draw_picture(QImage& image) override;
    void draw_over(QPainter& painter) override;
    void mousePressEvent(QMouseEvent* event) override;
    void showEvent(QShowEvent* event) override;

  private:
    void forget();
    void fill();
    void want();

    Focus& focus_;
    Comparison& comparison_;
    bool circle_;
    std::string x_, y_, z_;
    TurnSide side_ = TurnSide::both;
    std::vector<PairedSamples> samples_;
    std::optional<PairPlot> plot_;
};

/// How much of the range the picked laps spend in each step of a quantity's values.
class SharePicture : public KeptPicture {
    Q_OBJECT
  public:
    SharePicture(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    void show_quantity(const std::string& quantity);
    void show_share_of(ShareOf of);
    /// In the unit shown; 0: a usual one.
    void show_step(double step);
    void show_side(TurnSide side);
    [[nodiscard]] const std::string& quantity() const { return quantity_; }
    [[nodiscard]] const SharePlot& plot();
    [[nodiscard]] ViewOut out(const QString& name) override;

  protected:
    void draw_picture(QImage& image) override;
    void draw_over(QPainter& painter) override;
    void showEvent(QShowEvent* event) override;

  private:
    void forget();
    void fill();

    Comparison& comparison_;
    std::string quantity_ = "speed";
    ShareOf of_ = ShareOf::time;
    double step_ = 0;
    TurnSide side_ = TurnSide::both;
    std::optional<SharePlot> plot_;
};

}  // namespace rendak::app
