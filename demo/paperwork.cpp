#include "demo/paperwork.h"

#include "core/base/text.h"

namespace rendak::demo {
namespace {

std::vector<SheetValue> base_setup() {
    return {
        {"Spring front", "110", "N/mm"},     {"Spring rear", "120", "N/mm"},      {"Bar front", "3", "hole"},
        {"Bar rate front", "45", "N/mm"},    {"Bar rate rear", "32", "N/mm"},     {"Bar rear", "2", "hole"},
        {"Bump front", "8", "clicks"},       {"Bump rear", "8", "clicks"},        {"Rebound front", "10", "clicks"},
        {"Rebound rear", "10", "clicks"},    {"Camber front", "-2.8", "°"},       {"Camber rear", "-1.9", "°"},
        {"Toe front", "-0.5", "mm"},         {"Toe rear", "1.2", "mm"},           {"Packers front", "0", "mm"},
        {"Ride height front", "21", "mm"},   {"Ride height rear", "46", "mm"},    {"Rear wing", "9", "°"},
        {"Brake ducts", "closed", ""},       {"Brake balance front", "62", "%"},  {"Pressure cold FL", "1.52", "bar"},
        {"Pressure cold FR", "1.52", "bar"}, {"Pressure cold RL", "1.48", "bar"}, {"Pressure cold RR", "1.48", "bar"}};
}

void change(std::vector<SheetValue>& values, const std::string& name, const std::string& value) {
    for (SheetValue& line : values) {
        if (line.name == name) line.value = value;
    }
}

}  // namespace

Result<void> file_paperwork(Library& library) {
    const auto sheets = library.setups(car_name);
    if (!sheets) return pass_on(sheets.error());
    for (const Setup& sheet : *sheets) {
        if (sheet.name == "Base") return {};  // filed before
    }
    auto done = library.put_event({{},
                                   event_name,
                                   "Skerrow Point",
                                   "2026-06-13",
                                   "dry, light wind from the sea",
                                   "Saturday: short runs. Sunday: long runs, damper ladder."});
    if (!done) return done;
    done = library.put_car_sheet({car_name,
                                  "2026",
                                  "2026-03-01",
                                  {{"mass", "775", "kg"},
                                   {"wheelbase", "2.55", "m"},
                                   {"track width", "1.50", "m"},
                                   {"steering ratio", "13", ""},
                                   {"rear weight share", "56", "%"},
                                   {"tyre window low", "70", "°C"},
                                   {"tyre window high", "95", "°C"},
                                   {"brake window low", "250", "°C"},
                                   {"brake window high", "550", "°C"},
                                   {"fuel effect", "0.016", "s/l"},
                                   {"tyre pressure low", "1.95", "bar"},
                                   {"tyre pressure high", "2.20", "bar"},
                                   {"drag area", "0.86", "m²"},
                                   {"top revs", "7600", "rpm"},
                                   {"oil temperature high", "140", "°C"},
                                   {"water temperature high", "124", "°C"},
                                   {"gear 1 top speed", "70.2", "km/h"},
                                   {"gear 2 top speed", "100.8", "km/h"},
                                   {"gear 3 top speed", "133.2", "km/h"},
                                   {"gear 4 top speed", "167.4", "km/h"},
                                   {"gear 5 top speed", "205.2", "km/h"},
                                   {"gear 6 top speed", "255.6", "km/h"}}});
    if (!done) return done;
    const auto add = [&](const std::string& name, const std::vector<SheetValue>& values, const std::string& remarks) {
        if (!done) return;
        const auto sheet = library.add_setup(car_name, name, values, remarks);
        if (!sheet) done = pass_on(sheet.error());
    };
    auto values = base_setup();
    add("Base", values, "as delivered");
    auto less = values;
    change(less, "Rear wing", "5");
    change(less, "Packers front", "6");
    change(less, "Ride height front", "27");
    change(less, "Brake ducts", "open");
    add("Base", less, "less wing, packers, ducts open");
    auto x = values;
    change(x, "Bar rear", "1");
    change(x, "Bar rate rear", "20");
    add("Long X", x, "long run");
    auto y = values;
    change(y, "Bar rear", "3");
    change(y, "Bar rate rear", "45");
    change(y, "Spring front", "100");
    add("Long Y", y, "balance cured");
    for (int step = 1; step <= 6; ++step) {
        auto ladder = y;
        change(ladder, "Bump rear", std::to_string(2 * step));
        add("Ladder", ladder, "rear bump " + std::to_string(2 * step));
    }
    return done;
}

Result<void> file_guest_papers(Library& library) {
    const std::string car = guest_car().car_name;
    auto done = library.put_car_sheet({car,
                                       "2026",
                                       "2026-03-01",
                                       {{"mass", "775", "kg"},
                                        {"wheelbase", "2.55", "m"},
                                        {"top revs", "7600", "rpm"},
                                        {"oil temperature high", "140", "°C"},
                                        {"water temperature high", "124", "°C"}}});
    if (!done) return done;
    auto values = base_setup();
    change(values, "Rear wing", "16");
    change(values, "Spring front", "125");
    change(values, "Spring rear", "135");
    const auto sheet = library.add_setup(car, "Base", values, "more wing, stiffer springs");
    if (!sheet) return pass_on(sheet.error());
    return {};
}

Result<RunFacts> facts_of(const Library& library, const RunPlan& plan) {
    RunFacts facts;
    facts.event = event_name;
    facts.session = plan.session;
    facts.name = plan.name;
    facts.driver = plan.driver;
    facts.car = plan.car_name;
    facts.tyre_set = plan.tyre_set;
    facts.tyre_laps = plan.tyre_laps;
    facts.fuel_l = plan.state.fuel_l;
    facts.weather = plan.weather;
    facts.changes = plan.changes;
    facts.remarks = plan.note;
    const auto sheets = library.setups(plan.car_name);
    if (!sheets) return pass_on(sheets.error());
    for (const Setup& sheet : *sheets) {
        if (sheet.title() == plan.setup) facts.setup = sheet.id;
    }
    return facts;
}

}  // namespace rendak::demo
