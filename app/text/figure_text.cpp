#include "app/text/figure_text.h"

#include <QCoreApplication>
#include <cmath>

#include "app/text/shown.h"

namespace rendak::app {
namespace {

bool is_length(const CornerFigure& figure) {
    return figure.unit == std::string_view("m");
}

bool is_quantity(const CornerFigure& figure) {
    return *figure.quantity != '\0';
}

}  // namespace

QString figure_label(const CornerFigure& figure) {
    return QCoreApplication::translate("CornerFigure", figure.label);
}

QString figure_text(const CornerFigure& figure, double si) {
    if (!std::isfinite(si)) return QStringLiteral("–");
    if (is_quantity(figure)) return shown(figure.quantity).text(si);
    if (is_length(figure)) return distance_shown(figure.decimals).text(si);
    // What rounds to nothing has no sign.
    if (std::abs(si) < 0.5 * std::pow(10, -figure.decimals)) si = 0;
    return QString::number(si, 'f', figure.decimals).replace(u'-', QChar(0x2212));
}

QString figure_unit(const CornerFigure& figure) {
    if (is_quantity(figure)) return shown(figure.quantity).unit;
    return is_length(figure) ? distance_shown().unit : QString::fromUtf8(figure.unit);
}

QString figure_difference_text(const CornerFigure& figure, double si) {
    if (!std::isfinite(si)) return QStringLiteral("–");
    if (is_quantity(figure)) return shown(figure.quantity).difference_text(si);
    if (is_length(figure)) return distance_shown(figure.decimals).difference_text(si);
    return signed_number(si, figure.decimals);
}

}  // namespace rendak::app
