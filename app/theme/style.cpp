#include "app/theme/style.h"

#include <QIcon>

#include "app/theme/icons.h"
#include "app/theme/theme.h"

namespace rendak::app {

Style::Style() : QProxyStyle(QStringLiteral("Fusion")) {}

QIcon Style::standardIcon(StandardPixmap which, const QStyleOption* option, const QWidget* widget) const {
    const auto ours = [](const char* name) {
        QIcon icon;
        for (const double scale : {1.0, 2.0})
            icon.addPixmap(line_icon(QString::fromLatin1(name), theme().ink, 16, scale));
        return icon;
    };
    switch (which) {
        case SP_DialogOkButton:
        case SP_DialogYesButton:
        case SP_DialogYesToAllButton:
        case SP_DialogApplyButton:
        case SP_DialogSaveButton:
        case SP_DialogSaveAllButton:
        case SP_DialogOpenButton:
        case SP_DialogRetryButton:
            return ours("tick");
        case SP_DialogCancelButton:
        case SP_DialogCloseButton:
        case SP_DialogNoButton:
        case SP_DialogNoToAllButton:
        case SP_DialogDiscardButton:
        case SP_DialogAbortButton:
        case SP_DialogIgnoreButton:
            return ours("cross");
        case SP_DialogResetButton:
        case SP_DialogHelpButton:
            return {};
        default:
            return QProxyStyle::standardIcon(which, option, widget);
    }
}

int Style::styleHint(StyleHint hint, const QStyleOption* option, const QWidget* widget, QStyleHintReturn* data) const {
    // On every desktop alike.
    if (hint == SH_DialogButtonBox_ButtonsHaveIcons) return 1;
    return QProxyStyle::styleHint(hint, option, widget, data);
}

}  // namespace rendak::app
