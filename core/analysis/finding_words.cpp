#include <cmath>

#include "core/analysis/findings.h"
#include "core/base/text.h"

namespace rendak {
namespace {

using Kind = LapFinding::Kind;

/// What a kind is called in files, and what could be behind it. A cause is a possible one, with what looks the same.
struct KindRow {
    Kind kind;
    const char* id;
    bool of_driver;
    const char* causes;
};
constexpr KindRow kinds[] = {
    {Kind::brakes_early, "brakes_early", true,
     "Possibly caution. Less grip, a brake that gives less, or traffic look the same."},
    {Kind::brakes_late, "brakes_late", true,
     "Possibly too late to turn in well. A harder brake would make it right: look at the peak and the slowest speed."},
    {Kind::brakes_softly, "brakes_softly", true,
     "Possibly less pressure on the pedal. Less grip, a brake that gives less, or a bump look the same."},
    {Kind::releases_late, "releases_late", true,
     "Possibly the brake kept to turn the car. Less grip in the front, or an entry that was too fast look the same."},
    {Kind::overslowed, "overslowed", true,
     "Possibly braked for too long. Less grip, another line, or traffic look the same."},
    {Kind::lifts, "lifts", true, "Possibly caution. A car that slides, or traffic looks the same."},
    {Kind::brakes_needlessly, "brakes_needlessly", true, "Possibly for confidence. Traffic looks the same: ask."},
    {Kind::brushes_brake, "brushes_brake", true,
     "Possibly meant, to settle the car before a long corner: then it is no fault. A doubt about the speed looks the "
     "same: ask."},
    {Kind::coasts, "coasts", true, "Possibly lifted too early for the brake. Saving fuel or traffic look the same."},
    {Kind::throttle_late, "throttle_late", true,
     "Possibly waiting for the car to turn. A rear that slides, or a later apex looks the same."},
    {Kind::throttle_hesitates, "throttle_hesitates", true,
     "Possibly taken too early first. A rear that slides, or a bump looks the same."},
    {Kind::turns_in_early, "turns_in_early", true, "Possibly impatience. A line around traffic looks the same."},
    {Kind::turns_in_late, "turns_in_late", true,
     "Possibly on purpose, for the exit. A front that does not bite, or traffic looks the same."},
    {Kind::wide, "wide", true, "Possibly entered too fast. A front that pushes, or traffic looks the same."},
    {Kind::pinched, "pinched", true, "Possibly turned in too early. A front that pushes looks the same."},
    {Kind::locks_up, "locks_up", true,
     "Possibly too much pressure with the wheel turned. The brakes' balance, a bump, or a light wheel look the same."},
    {Kind::spins_wheels, "spins_wheels", true,
     "Possibly too much throttle. The differential or a kerb looks the same."},
    {Kind::odd_lap, "odd_lap", true, "Ask about traffic or a mistake before anything is made of it."},
    {Kind::pulls_less, "pulls_less", false, "Possibly power, drag, weight or wind."},
    {Kind::carries_less, "carries_less", false,
     "Possibly tyres, the grip of the day, or a driver who uses less of it everywhere."},
};

const KindRow& row_of(Kind kind) {
    for (const KindRow& row : kinds) {
        if (row.kind == kind) return row;
    }
    return kinds[0];
}

}  // namespace

std::string_view kind_name(Kind kind) {
    return row_of(kind).id;
}

bool is_of_driver(Kind kind) {
    return row_of(kind).of_driver;
}

std::string finding_causes(const LapFinding& it) {
    if (!it.causes.empty()) return it.causes;
    std::string out = row_of(it.kind).causes;
    // One lap shows what was done once.
    const bool odd = it.kind == Kind::lifts || it.kind == Kind::brakes_needlessly || it.kind == Kind::brushes_brake ||
                     it.kind == Kind::overslowed;
    if (odd && it.of == 1) out += " It is one lap: ask about traffic first.";
    return out;
}

std::string finding_words(const LapFinding& it, const Track& track, const WordUnits& units) {
    const auto length = [&](double m, int decimals) { return fixed(m * units.per_m, decimals) + " " + units.length; };
    const auto speed = [&](double kmh) { return fixed(kmh * units.per_kmh, 1) + " " + units.speed; };
    const std::string &b = units.b, &a = units.a;
    std::string where = it.kind == Kind::pulls_less ? "On the straights" : "In most corners";
    if (const std::string title = corner_title(track, it.corner); !title.empty()) where = title;
    std::string what;
    switch (it.kind) {
        case Kind::brakes_early:
            what = "brakes " + length(it.size, 0) + " earlier than " + a;
            break;
        case Kind::brakes_late:
            what = "brakes " + length(it.size, 0) + " later than " + a;
            break;
        case Kind::brakes_softly:
            what = "brakes " + fixed(it.size, 2) + " g softer than " + a;
            break;
        case Kind::releases_late:
            what = "is off the brake " + length(it.size, 0) + " later than " + a;
            break;
        case Kind::overslowed:
            what = "is " + speed(it.size) + " slower than " + a + " at the slowest place";
            if (it.earlier_m > 0) what += ", " + length(it.earlier_m, 0) + " before " + a + "'s";
            break;
        case Kind::lifts:
            what = (std::isfinite(it.size) ? "lifts by " + fixed(it.size, 0) + " %" : std::string("lifts")) +
                   " where " + a + " stays flat";
            break;
        case Kind::brakes_needlessly:
            what = "brakes (" + fixed(it.size, 2) + " g) where " + a + " does not";
            break;
        case Kind::brushes_brake:
            what = "brushes the brake (" + fixed(it.size, 2) + " g) before turning in, where " + a + " does not";
            break;
        case Kind::coasts:
            what = "is on neither pedal " + fixed(it.size, 2) + " s longer than " + a;
            break;
        case Kind::throttle_late:
            what = "is on full throttle for good " + length(it.size, 0) + " later than " + a;
            break;
        case Kind::throttle_hesitates:
            what = "hesitates on the way to full throttle, by " + fixed(it.size, 0) + " % of it";
            break;
        case Kind::turns_in_early:
            what = "turns in earlier than " + a + ": half-way in its line is " + length(it.size, 1) + " further in";
            break;
        case Kind::turns_in_late:
            what = "turns in later than " + a + ": half-way in its line is " + length(it.size, 1) + " further out";
            break;
        case Kind::wide:
            what = "is " + length(it.size, 1) + " further out at the apex than " + a;
            break;
        case Kind::pinched:
            what = "tightens the line in the middle, by " + fixed(it.size, 0) + " % more than " + a;
            break;
        case Kind::locks_up:
            what = "locks a wheel up for " + fixed(it.size, 2) + " s";
            break;
        case Kind::spins_wheels:
            what = "spins a wheel for " + fixed(it.size, 2) + " s";
            break;
        case Kind::odd_lap:
            what = "lap " + std::to_string(it.lap ? it.lap->lap : 0) + " alone is " + fixed(it.size, 2) +
                   " s slower here than the others of " + b;
            return where + ": " + what + "; costs " + fixed(it.loss_s, 2) + " s in the mean.";
        case Kind::pulls_less:
            what = "pulls less than " + a;
            break;
        case Kind::carries_less:
            what = "is slower than " + a + " at the slowest place, by " + speed(it.size) + " in the mean";
            break;
    }
    std::string out = where + ": " + b + " " + what;
    if (it.of > 1) out += ", on " + std::to_string(it.seen_on) + " of " + std::to_string(it.of) + " laps";
    return out + "; costs " + fixed(it.loss_s, 2) + " s.";
}

}  // namespace rendak
