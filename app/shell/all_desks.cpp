#include "app/desks/chassis/chassis_desk.h"
#include "app/desks/collect/collect_desk.h"
#include "app/desks/compare/compare_desk.h"
#include "app/desks/corners/corners_desk.h"
#include "app/desks/formulas/formulas_desk.h"
#include "app/desks/guide/guide_desk.h"
#include "app/desks/logbook/logbook_desk.h"
#include "app/desks/stint/stint_desk.h"
#include "app/desks/track/track_desk.h"
#include "app/desks/video/video_desk.h"

namespace rendak::app {
namespace {

template <class D>
Desk* make(Workspace& workspace, QWidget* parent) {
    return new D(workspace, parent);
}

constexpr DeskKind kinds[] = {
    {"collect", QT_TRANSLATE_NOOP("Desk", "Collect"), false, &make<CollectDesk>},
    {"logbook", QT_TRANSLATE_NOOP("Desk", "Logbook"), false, &make<LogbookDesk>},
    {"compare", QT_TRANSLATE_NOOP("Desk", "Compare"), true, &make<CompareDesk>},
    {"corners", QT_TRANSLATE_NOOP("Desk", "Corners"), true, &make<CornersDesk>},
    {"stint", QT_TRANSLATE_NOOP("Desk", "Stint"), true, &make<StintDesk>},
    {"chassis", QT_TRANSLATE_NOOP("Desk", "Chassis"), true, &make<ChassisDesk>},
    {"track", QT_TRANSLATE_NOOP("Desk", "Track"), true, &make<TrackDesk>},
    {"formulas", QT_TRANSLATE_NOOP("Desk", "Formulas"), true, &make<FormulasDesk>},
    {"guide", QT_TRANSLATE_NOOP("Desk", "Guide"), true, &make<GuideDesk>},
    {"video", QT_TRANSLATE_NOOP("Desk", "Video"), true, &make<VideoDesk>},
};

}  // namespace

std::span<const DeskKind> all_desks() {
    return kinds;
}

}  // namespace rendak::app
