#include "core/signal/quantity.h"

#include <functional>
#include <map>
#include <string>

#include "core/base/text.h"

namespace rendak {
namespace {

constexpr Quantity table[] = {
    {"latitude", "Latitude", "deg", "deg", "deg", 7, "north", false,
     "lat latitude gpslat gpslatitude positionlat latn lats latns latdeg latitudedeg latitudenorth latitudesouth "
     "breite breitengrad geografischebreite breedtegraad latitudine latitud"},
    {"longitude", "Longitude", "deg", "deg", "deg", 7, "east", false,
     "lon lng long longitude gpslon gpslong gpslongitude positionlon lone lonw longe longw lonew longitudeeast "
     "longitudewest laenge lnge laengengrad lngengrad geografischelnge lengtegraad longitudine longitud"},
    {"altitude", "Height", "m", "m", "ft", 1, "", false,
     "alt altitude gpsalt gpsaltitude height elevation gpsheight ele hhe hoehe altitudemsl"},
    {"speed", "Speed", "m/s", "km/h", "mph", 1, "", false,
     "speed gpsspeed spd velocity v groundspeed vehiclespeed vcar carspeed speedgps speedoverground geschwindigkeit "
     "vitesse velocidad velocita velocit snelheid carvelocity vgps geschw gpsgeschw vitessegps velocidadgps velocidade "
     "hastighet sog vss vehspd gpsv vehiclespeedsensor"},
    {"heading", "Heading", "deg", "deg", "deg", 1, "clockwise from north", false,
     "heading gpsheading course bearing track gpscourse cog kurs cap trueheading"},
    {"throttle", "Throttle", "", "%", "%", 0, "", false,
     "throttle throttlepos throttleposition tps pedal accelerator accpedal throttlepedal gaspedal gas throttlepct "
     "tpspct throttlevalve drosselklappe pedalposition gaspedaal acceleratore acclrateur accelerateur acelerador "
     "gaspdrag"},
    {"brake", "Brake", "", "%", "%", 0, "", false, "brake brakepos brakeposition brakepedal bremse frein freno"},
    {"brake_front", "Brake front", "Pa", "bar", "psi", 1, "", false,
     "brakefront brakepressure brakepressurefront brakepresfront brakepresf brakepf frontbrake frontbrakepressure "
     "pbrakefront brakepress brakepres bremsdruckvorne bremsdruck remdrukvoor pressionefrenoant pressionfreinav "
     "bromstryckfram"},
    {"brake_rear", "Brake rear", "Pa", "bar", "psi", 1, "", false,
     "brakerear brakepressurerear brakepresrear brakepresr brakepr rearbrake rearbrakepressure pbrakerear "
     "bremsdruckhinten"},
    {"clutch", "Clutch", "", "%", "%", 0, "", false, "clutch clutchpos clutchposition clutchpedal"},
    {"steering", "Steering", "rad", "°", "°", 1, "left", false,
     "steering steer steerangle steeringangle steeringwheel steeringwheelangle steeringpos swa lenkwinkel steerang "
     "steeringang"},
    {"gear", "Gear", "", "", "", 0, "", true,
     "gear gearpos gearposition currentgear gang rapport marcha gearnumber gearno"},
    {"engine_speed", "Revs", "rad/s", "rpm", "rpm", 0, "", false,
     "rpm enginespeed enginerpm revs nengine enginerevs drehzahl motordrehzahl rgime regime engrpm motorrpm nmot "
     "revolutions toerental girimotore giri rgimemoteur regimemoteur rgimen regimen rotao varvtal"},
    {"lateral_acceleration", "Lateral", "m/s²", "g", "g", 2, "left", false,
     "lateralacceleration latacc lataccel accellat lateralg latg glat accy accely ay accelerationy lateral glateral "
     "gy lateralacc lateralaccel latacceleration acclat acclateral accellateral accelerationlateral gforcelat "
     "latgforce gforcey lateralgforce querbeschleunigung dwarsversnelling acclaterale accelerazionelaterale "
     "acclrationlatrale aceleracinlateral aceleraolateral sidoacceleration"},
    {"longitudinal_acceleration", "Along", "m/s²", "g", "g", 2, "gaining speed", false,
     "longitudinalacceleration longacc longaccel accellong longitudinalg longg glong accx accelx ax accelerationx "
     "inline "
     "longitudinal glongitudinal inlineg gx longitudinalacc longitudinalaccel longacceleration acclong acclongitudinal "
     "accellongitudinal accelerationlongitudinal gforcelong longgforce gforcex longitudinalgforce lngsbeschleunigung "
     "laengsbeschleunigung"},
    {"vertical_acceleration", "Vertical", "m/s²", "g", "g", 2, "up", false,
     "verticalacceleration vertacc vertaccel accelvert verticalg vertg gvert accz accelz az accelerationz gz"},
    {"yaw_rate", "Yaw rate", "rad/s", "°/s", "°/s", 1, "left", false, "yawrate yaw gyroz yawvelocity ratez"},
    {"wheel_speed", "Wheel speed", "m/s", "km/h", "mph", 1, "", false, "wheelspeed wheelbasedspeed drivenspeed"},
    {"wheel_speed_fl", "Wheel speed FL", "m/s", "km/h", "mph", 1, "", false,
     "wheelspeedfl wspdfl speedfl wheelspeedfrontleft vwheelfl wheelfl"},
    {"wheel_speed_fr", "Wheel speed FR", "m/s", "km/h", "mph", 1, "", false,
     "wheelspeedfr wspdfr speedfr wheelspeedfrontright vwheelfr wheelfr"},
    {"wheel_speed_rl", "Wheel speed RL", "m/s", "km/h", "mph", 1, "", false,
     "wheelspeedrl wspdrl speedrl wheelspeedrearleft vwheelrl wheelrl"},
    {"wheel_speed_rr", "Wheel speed RR", "m/s", "km/h", "mph", 1, "", false,
     "wheelspeedrr wspdrr speedrr wheelspeedrearright vwheelrr wheelrr"},
    {"damper_fl", "Damper FL", "m", "mm", "in", 1, "bump", false, "damperfl dampertravelfl damperposfl suspfl"},
    {"damper_fr", "Damper FR", "m", "mm", "in", 1, "bump", false, "damperfr dampertravelfr damperposfr suspfr"},
    {"damper_rl", "Damper RL", "m", "mm", "in", 1, "bump", false, "damperrl dampertravelrl damperposrl susprl"},
    {"damper_rr", "Damper RR", "m", "mm", "in", 1, "bump", false, "damperrr dampertravelrr damperposrr susprr"},
    {"ride_height_front", "Ride height front", "m", "mm", "in", 1, "", false, "rideheightfront rideheightf rhf"},
    {"ride_height_rear", "Ride height rear", "m", "mm", "in", 1, "", false, "rideheightrear rideheightr rhr"},
    {"ride_height_fl", "Ride height FL", "m", "mm", "in", 1, "", false, "rideheightfl rhfl"},
    {"ride_height_fr", "Ride height FR", "m", "mm", "in", 1, "", false, "rideheightfr rhfr"},
    {"ride_height_rl", "Ride height RL", "m", "mm", "in", 1, "", false, "rideheightrl rhrl"},
    {"ride_height_rr", "Ride height RR", "m", "mm", "in", 1, "", false, "rideheightrr rhrr"},
    {"tyre_load_fl", "Tyre load FL", "N", "N", "lbf", 0, "", false, "tyreloadfl tireloadfl wheelloadfl"},
    {"tyre_load_fr", "Tyre load FR", "N", "N", "lbf", 0, "", false, "tyreloadfr tireloadfr wheelloadfr"},
    {"tyre_load_rl", "Tyre load RL", "N", "N", "lbf", 0, "", false, "tyreloadrl tireloadrl wheelloadrl"},
    {"tyre_load_rr", "Tyre load RR", "N", "N", "lbf", 0, "", false, "tyreloadrr tireloadrr wheelloadrr"},
    {"tyre_pressure_fl", "Tyre pressure FL", "Pa", "bar", "psi", 2, "", false, "tyrepressurefl tirepressurefl"},
    {"tyre_pressure_fr", "Tyre pressure FR", "Pa", "bar", "psi", 2, "", false, "tyrepressurefr tirepressurefr"},
    {"tyre_pressure_rl", "Tyre pressure RL", "Pa", "bar", "psi", 2, "", false, "tyrepressurerl tirepressurerl"},
    {"tyre_pressure_rr", "Tyre pressure RR", "Pa", "bar", "psi", 2, "", false, "tyrepressurerr tirepressurerr"},
    {"tyre_temperature_fl", "Tyre carcass FL", "K", "°C", "°F", 1, "", false, "tyrecarcassfl tyretempfl tiretempfl"},
    {"tyre_temperature_fr", "Tyre carcass FR", "K", "°C", "°F", 1, "", false, "tyrecarcassfr tyretempfr tiretempfr"},
    {"tyre_temperature_rl", "Tyre carcass RL", "K", "°C", "°F", 1, "", false, "tyrecarcassrl tyretemprl tiretemprl"},
    {"tyre_temperature_rr", "Tyre carcass RR", "K", "°C", "°F", 1, "", false, "tyrecarcassrr tyretemprr tiretemprr"},
    {"tyre_inner_fl", "Tyre inner FL", "K", "°C", "°F", 1, "", false, "tyreinnerfl"},
    {"tyre_inner_fr", "Tyre inner FR", "K", "°C", "°F", 1, "", false, "tyreinnerfr"},
    {"tyre_inner_rl", "Tyre inner RL", "K", "°C", "°F", 1, "", false, "tyreinnerrl"},
    {"tyre_inner_rr", "Tyre inner RR", "K", "°C", "°F", 1, "", false, "tyreinnerrr"},
    {"tyre_middle_fl", "Tyre middle FL", "K", "°C", "°F", 1, "", false, "tyremiddlefl"},
    {"tyre_middle_fr", "Tyre middle FR", "K", "°C", "°F", 1, "", false, "tyremiddlefr"},
    {"tyre_middle_rl", "Tyre middle RL", "K", "°C", "°F", 1, "", false, "tyremiddlerl"},
    {"tyre_middle_rr", "Tyre middle RR", "K", "°C", "°F", 1, "", false, "tyremiddlerr"},
    {"tyre_outer_fl", "Tyre outer FL", "K", "°C", "°F", 1, "", false, "tyreouterfl"},
    {"tyre_outer_fr", "Tyre outer FR", "K", "°C", "°F", 1, "", false, "tyreouterfr"},
    {"tyre_outer_rl", "Tyre outer RL", "K", "°C", "°F", 1, "", false, "tyreouterrl"},
    {"tyre_outer_rr", "Tyre outer RR", "K", "°C", "°F", 1, "", false, "tyreouterrr"},
    {"tyre_worn_fl", "Tyre worn FL", "", "%", "%", 1, "", false, "tyrewornfl tyrewearfl tirewearfl"},
    {"tyre_worn_fr", "Tyre worn FR", "", "%", "%", 1, "", false, "tyrewornfr tyrewearfr tirewearfr"},
    {"tyre_worn_rl", "Tyre worn RL", "", "%", "%", 1, "", false, "tyrewornrl tyrewearrl tirewearrl"},
    {"tyre_worn_rr", "Tyre worn RR", "", "%", "%", 1, "", false, "tyrewornrr tyrewearrr tirewearrr"},
    {"brake_temperature_fl", "Brake disc FL", "K", "°C", "°F", 0, "", false, "braketempfl brakediscfl"},
    {"brake_temperature_fr", "Brake disc FR", "K", "°C", "°F", 0, "", false, "braketempfr brakediscfr"},
    {"brake_temperature_rl", "Brake disc RL", "K", "°C", "°F", 0, "", false, "braketemprl brakediscrl"},
    {"brake_temperature_rr", "Brake disc RR", "K", "°C", "°F", 0, "", false, "braketemprr brakediscrr"},
    {"oil_pressure", "Oil pressure", "Pa", "bar", "psi", 2, "", false, "oilpressure oilpress oilp"},
    {"oil_temperature", "Oil temperature", "K", "°C", "°F", 1, "", false, "oiltemp oiltemperature"},
    {"water_temperature", "Water temperature", "K", "°C", "°F", 1, "", false,
     "watertemp watertemperature coolanttemp coolanttemperature"},
    {"fuel", "Fuel", "m³", "l", "l", 1, "", false, "fuel fuellevel fuelvolume"},
    {"battery_voltage", "Battery", "V", "V", "V", 2, "", false,
     "batteryvoltage battvoltage batteryvolts voltage vbatt vbat ubatt supplyvoltage"},
    {"lap_count", "Lap count", "", "", "", 0, "", true, "lap lapcount lapnumber lapno lapcounter"},
    {"lap_beacon", "Lap beacon", "", "", "", 0, "", true, "beacon lapbeacon lapmarker lapmark laptrigger"},
    {"lap_time", "Running lap time", "s", "s", "s", 3, "", false, "runninglaptime currentlaptime elapsedlaptime"},
    {"time", "Time", "s", "s", "s", 3, "", false,
     "time timestamp elapsed elapsedtime seconds sec t sessiontime logtime utctime utc unixtime "
     "zeit "
     "zeitstempel uhrzeit temps tiempo tempo tijd heure hora clock clocktime timeofday localtime gpstime gpsutc "
     "datetime "
     "dateandtime dateheure fechahora datumzeit datumuhrzeit datumzeit loggertime recordingtime epoch"},
};

/// Every name that a quantity goes by, folded; the first quantity of the table that has it.
const std::map<std::string, const Quantity*, std::less<>>& folded_names() {
    static const auto names = [] {
        std::map<std::string, const Quantity*, std::less<>> out;
        for (const Quantity& quantity : table) {
            out.try_emplace(folded(quantity.id), &quantity);
            out.try_emplace(folded(quantity.label), &quantity);
            std::string_view rest = quantity.aliases;
            while (!rest.empty()) {
                const auto blank = rest.find(' ');
                out.try_emplace(std::string(rest.substr(0, blank)), &quantity);
                rest = blank == std::string_view::npos ? std::string_view{} : rest.substr(blank + 1);
            }
        }
        out.erase("");
        return out;
    }();
    return names;
}

}  // namespace

std::string_view group_of(const Quantity& quantity) {
    struct Group {
        std::string_view name, prefixes;
    };
    static constexpr Group groups[] = {
        {"Driver", "throttle brake_front brake_rear brake clutch steering gear"},
        {"Wheels and tyres", "wheel_ tyre_ brake_temperature"},
        {"Suspension", "damper_ ride_height"},
        {"Engine and fuel", "engine_ oil_ water_ fuel battery_"},
        {"Place and time", "latitude longitude altitude heading lap_ time"},
    };
    std::string_view found = "Car";
    std::size_t longest = 0;
    for (const Group& group : groups) {
        for (std::size_t at = 0; at < group.prefixes.size();) {
            const std::size_t end = std::min(group.prefixes.find(' ', at), group.prefixes.size());
            const auto prefix = group.prefixes.substr(at, end - at);
            if (quantity.id.starts_with(prefix) && prefix.size() > longest) {
                found = group.name;
                longest = prefix.size();
            }
            at = end + 1;
        }
    }
    return found;
}

std::vector<std::string_view> stand_ins(std::string_view quantity) {
    struct Row {
        std::string_view quantity;
        std::vector<std::string_view> instead;
    };
    static const std::vector<Row> rows{
        {"brake_front", {"brake", "brake_rear", "braking"}},
        {"brake_rear", {"brake", "brake_front", "braking"}},
        {"brake", {"brake_front", "brake_rear", "braking"}},
        {"throttle", {"on_throttle"}},
        {"steering", {"yaw_rate", "lateral_acceleration"}},
        {"yaw_rate", {"lateral_acceleration", "steering"}},
        {"speed", {"wheel_speed", "wheel_speed_rl", "wheel_speed_fl"}},
        {"gear", {"engine_speed"}},
        {"engine_speed", {"gear"}},
        {"ride_height_front", {"damper_fl", "damper_fr"}},
        {"ride_height_rear", {"damper_rl", "damper_rr"}},
        {"damper_fl", {"ride_height_front"}},
        {"damper_fr", {"ride_height_front"}},
        {"damper_rl", {"ride_height_rear"}},
        {"damper_rr", {"ride_height_rear"}},
        {"tyre_temperature_fl", {"tyre_middle_fl", "tyre_outer_fl"}},
        {"tyre_temperature_fr", {"tyre_middle_fr", "tyre_outer_fr"}},
        {"tyre_temperature_rl", {"tyre_middle_rl", "tyre_outer_rl"}},
        {"tyre_temperature_rr", {"tyre_middle_rr", "tyre_outer_rr"}},
        {"oil_temperature", {"water_temperature"}},
    };
    for (const Row& row : rows) {
        if (row.quantity == quantity) return row.instead;
    }
    return {};
}

std::span<const Quantity> all_quantities() {
    return table;
}

const Quantity* find_quantity(std::string_view id) {
    static const std::map<std::string_view, const Quantity*> by_id = [] {
        std::map<std::string_view, const Quantity*> out;
        for (const Quantity& quantity : table) out.emplace(quantity.id, &quantity);
        return out;
    }();
    const auto found = by_id.find(id);
    return found == by_id.end() ? nullptr : found->second;
}

const Quantity* match_quantity(std::string_view channel_name) {
    const auto found = folded_names().find(folded(channel_name));
    return found == folded_names().end() ? nullptr : found->second;
}

const Quantity* match_quantity(std::string_view channel_name, const Aliases& aliases) {
    const auto found = aliases.find(folded(channel_name));
    if (found != aliases.end()) {
        if (const Quantity* quantity = find_quantity(found->second)) return quantity;
    }
    return match_quantity(channel_name);
}

}  // namespace rendak
