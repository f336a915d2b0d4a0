#pragma once

#include <QtGlobal>
#include <array>

#include "app/desks/chassis/chassis_look.h"

namespace rendak::app {

/// The pages of the desk, in their order.
struct PageRow {
    ChassisPage page;
    const char* id;
    const char* title;
    const char* hint;
};
inline constexpr std::array page_rows{
    PageRow{ChassisPage::heights, "heights", QT_TRANSLATE_NOOP("ChassisDesk", "Ride height"),
            QT_TRANSLATE_NOOP("ChassisDesk", "Where the car comes down to its limit, and why")},
    PageRow{ChassisPage::dampers, "dampers", QT_TRANSLATE_NOOP("ChassisDesk", "Damper speed"),
            QT_TRANSLATE_NOOP("ChassisDesk", "Bump and rebound, slow and fast; too lively or too dead")},
    PageRow{ChassisPage::spectrum, "spectrum", QT_TRANSLATE_NOOP("ChassisDesk", "Spectrum"),
            QT_TRANSLATE_NOOP("ChassisDesk", "How much loads and travels move, by frequency")},
    PageRow{ChassisPage::ladder, "ladder", QT_TRANSLATE_NOOP("ChassisDesk", "Ladder"),
            QT_TRANSLATE_NOOP("ChassisDesk", "Runs of the event that step one value of the setup sheet")},
    PageRow{ChassisPage::balance, "balance", QT_TRANSLATE_NOOP("ChassisDesk", "Balance"),
            QT_TRANSLATE_NOOP("ChassisDesk", "Understeer by corner and phase, roll, pitch")},
    PageRow{ChassisPage::pull, "pull", QT_TRANSLATE_NOOP("ChassisDesk", "Pull"),
            QT_TRANSLATE_NOOP("ChassisDesk", "Power and drag on the straights")},
    PageRow{ChassisPage::strikes, "strikes", QT_TRANSLATE_NOOP("ChassisDesk", "Kerbs, lock-ups"),
            QT_TRANSLATE_NOOP("ChassisDesk", "By wheel and corner, with the brake balance beside them")},
    PageRow{ChassisPage::trial, "trial", QT_TRANSLATE_NOOP("ChassisDesk", "Change trials"),
            QT_TRANSLATE_NOOP("ChassisDesk", "What a change did where it was aimed at, and what it cost")}};

}  // namespace rendak::app
