#pragma once

#include <QWidget>

#include "app/desks/guide/guide_data.h"

namespace rendak::app {

/// One corner for somebody who has never been there: in plan with the lap's line and marks, unrolled along its metres
/// with height, lean and speed, and in words.
class GuidePage : public QWidget {
    Q_OBJECT
  public:
    explicit GuidePage(QWidget* parent = nullptr);
    void set_data(std::shared_ptr<const GuideData> guide);
    void set_corner(std::size_t corner);
    [[nodiscard]] QString words() const;
    [[nodiscard]] QStringList warnings() const;

    /// The same for a sheet of paper.
    static void paint_page(QPainter& painter, QRectF area, const GuideData& guide, std::size_t corner);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    std::shared_ptr<const GuideData> data_;
    std::size_t corner_ = 0;
};

/// What the lap's line and the grip in use say of the corner; empty where nothing can be told.
[[nodiscard]] QString own_words(const GuideData& data, std::size_t corner);

}  // namespace rendak::app
