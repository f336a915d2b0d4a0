#pragma once

#include <QImage>
#include <QWidget>

namespace rendak::app {

/// A widget whose picture is drawn once into an image and kept, until it is invalidated or another size; what moves
/// with the cursor is drawn over it.
class KeptPicture : public QWidget {
    Q_OBJECT
  public:
    using QWidget::QWidget;
    /// How often the picture was drawn: a cursor move draws none.
    [[nodiscard]] int redraws() const { return redraws_; }

  protected:
    /// Draws all but the cursor; the image is as large as the widget, in its pixel ratio, and filled with the panel's
    /// colour unless covers_all().
    virtual void draw_picture(QImage& image) = 0;
    /// Whether draw_picture() paints every pixel.
    [[nodiscard]] virtual bool covers_all() const { return false; }
    /// Draws cursor and what moves with it.
    virtual void draw_over(QPainter& painter) = 0;

    /// What is shown changed: the picture is drawn anew.
    void invalidate();
    void paintEvent(QPaintEvent* event) override;

  private:
    QImage image_;
    bool dirty_ = true;
    int redraws_ = 0;
};

}  // namespace rendak::app
