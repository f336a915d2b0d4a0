#include "app/desks/chassis/change_cell.h"

#include <QObject>

#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"

namespace rendak::app {

ChassisTable::Cell change_cell(double change, const std::optional<Interval>& likely, double factor, int decimals,
                               const QString& unit) {
    using Mark = ChassisTable::Cell::Mark;
    if (!likely) return {QStringLiteral("–"), Mark::mute};
    if (likely->contains(0)) return {QObject::tr("alike"), Mark::mute};
    return {signed_number(change * factor, decimals) + unit};
}

QString likely_text(const std::optional<Interval>& likely, double factor, int decimals) {
    if (!likely) return {};
    return QObject::tr(" (%1 to %2)")
        .arg(plain_number(likely->begin * factor, decimals), plain_number(likely->end * factor, decimals));
}

}  // namespace rendak::app
