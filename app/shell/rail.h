#pragma once

#include <QAbstractButton>
#include <QWidget>

class QVBoxLayout;

namespace rendak::app {

/// A desk on the rail: icon over its name; the chosen one stands on paper with a mark in B's colour.
class RailButton : public QAbstractButton {
    Q_OBJECT
  public:
    RailButton(const QString& icon, const QString& label, QWidget* parent = nullptr);
    [[nodiscard]] QSize sizeHint() const override { return {68, 62}; }
    /// On a low screen the icon gives way, and the name is told beside the pointer.
    [[nodiscard]] QSize minimumSizeHint() const override { return {68, 24}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QString icon_;
};

/// The left rail: the desks from top to bottom, the view menu at the foot.
class Rail : public QWidget {
    Q_OBJECT
  public:
    explicit Rail(QWidget* parent = nullptr);
    RailButton* add_desk(const QString& icon, const QString& label);
    RailButton* add_foot(const QString& icon, const QString& label);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QVBoxLayout* column_;
};

}  // namespace rendak::app
