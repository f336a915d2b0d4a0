#pragma once

#include <QProxyStyle>

namespace rendak::app {

/// The widgets' style, with our icons on the buttons of dialogs in place of the desktop's.
class Style : public QProxyStyle {
    Q_OBJECT
  public:
    Style();
    [[nodiscard]] QIcon standardIcon(StandardPixmap which, const QStyleOption* option,
                                     const QWidget* widget) const override;
    [[nodiscard]] int styleHint(StyleHint hint, const QStyleOption* option, const QWidget* widget,
                                QStyleHintReturn* data) const override;
};

}  // namespace rendak::app
