#include "tests/kill/library_state.h"

#include <map>
#include <sstream>

#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/library/library.h"
#include "core/recording/recording_file.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

namespace rendak::test {
namespace {

namespace fs = std::filesystem;

void put(std::ostream& out, const std::optional<double>& value) {
    out << (value ? std::to_string(*value) : "-") << "|";
}

std::string facts_text(const RunFacts& facts) {
    std::ostringstream out;
    for (const auto* text : {&facts.event, &facts.session, &facts.name, &facts.driver, &facts.car, &facts.tyre_set,
                             &facts.weather, &facts.changes, &facts.remarks})
        out << *text << "|";
    for (const auto& value : {facts.tyre_laps, facts.fuel_l, facts.official_time_s, facts.air_c, facts.track_c,
                              facts.wind_mps, facts.wind_from_deg, facts.pressure_hpa})
        put(out, value);
    return out.str();
}

std::string window_text(const RunRow& row) {
    return row.window_s ? std::to_string(row.window_s->begin) + "-" + std::to_string(row.window_s->end) : "all";
}

std::string run_block(Library& library, const RunRow& row, const std::map<RunId, std::string>& names) {
    std::ostringstream out;
    out << "run " << row.digest << " " << window_text(row) << "\n"
        << facts_text(row) << row.setup_name << "|" << row.track_name << "|" << row.source_name << "|" << row.logger
        << "|" << row.clock_shift_s << "|";
    put(out, row.start_unix_s);
    out << (row.binned_unix_s ? "binned|" : "") << row.damage << "|";
    if (row.joined_into) out << "part of " << names.at(row.joined_into) << " by " << row.join_offset_s;
    for (const std::string& note : row.notes) out << "\n" << note;
    for (const Lap& lap : got(library.laps(row.id)))
        out << "\nlap " << lap.number << " " << lap_kind_name(lap.kind) << " " << std::to_string(lap.start_s) << " "
            << std::to_string(lap.end_s) << " " << lap.included << lap.switched_by_hand << " " << lap.reason;
    for (const auto& list : {got(library.flipped_quantities(row.id)), got(library.unused_channels(row.id)),
                             got(library.accepted_findings(row.id))}) {
        out << "\n" << std::set<std::string>(list.begin(), list.end()).size();
        for (const std::string& name : std::set<std::string>(list.begin(), list.end())) out << " " << name;
    }
    const PlaceCorrection place = got(library.place_correction(row.id));
    out << "\n" << place.east_m << " " << place.north_m << " " << place.delay_s << " ";
    put(out, place.launch_s);
    for (const RawFile& raw : got(library.raw_files(row.id))) {
        out << "\noriginal " << raw.sha256 << " " << raw.archive_file;
        if (!raw.archive_file.empty() && got(sha256_of_file(library.folder() / raw.archive_file)) != raw.sha256)
            throw std::runtime_error("an original is not whole: " + raw.archive_file);
    }
    // Whole, or said to be damaged; a missing one makes the state another one.
    if (!fs::exists(library.folder() / row.recording_file))
        out << "\nits recording is missing";
    else if (row.damage.empty() && content_digest(*got(library.open_run(row.id))) != row.digest)
        throw std::runtime_error("a recording is not whole: " + row.recording_file);
    return out.str();
}

}  // namespace

std::set<std::string> blocks_of_folder(const fs::path& folder) {
    std::set<std::string> out;
    if (!fs::exists(folder)) return out;
    for (const auto& entry : fs::recursive_directory_iterator(folder)) {
        if (!entry.is_regular_file()) continue;
        const std::string name = entry.path().lexically_relative(folder).string();
        // Bytes of a recording file may differ between two writings of the same content.
        const bool container = entry.path().extension() == ".h5" || entry.path().extension() == ".zip";
        out.insert("file " + name + (container ? "" : " " + got(sha256_of_file(entry.path()))));
    }
    return out;
}

std::set<std::string> blocks_of_library(const fs::path& folder) {
    auto opened = got(Library::open(folder));
    Library& library = *opened;
    std::set<std::string> out;
    std::vector<RunRow> rows = got(library.runs());
    for (RunRow& row : got(library.binned())) rows.push_back(std::move(row));
    for (std::size_t i = 0, n = rows.size(); i < n; ++i)
        for (RunRow& part : got(library.joined_runs(rows[i].id))) rows.push_back(std::move(part));
    std::map<RunId, std::string> names;
    for (const RunRow& row : rows) names[row.id] = row.digest + " " + window_text(row);
    for (const RunRow& row : rows) out.insert(run_block(library, row, names));
    for (const TrackRow& track : got(library.tracks())) {
        std::string block =
            "track " + track.name + " " + std::to_string(track.length_m) + "\n" + got(library.track_geojson(track.id));
        if (read_all(folder / track.file) != got(library.track_geojson(track.id)))
            throw std::runtime_error("the file of a track is not what the catalogue says: " + track.file);
        for (const Mark& mark : got(library.marks(track.id)))
            block += "\nmark " + mark.name + " " + std::to_string(mark.range_m.begin) + " " +
                     std::to_string(mark.range_m.end);
        out.insert(block);
    }
    for (const Setup& sheet : got(library.setups())) {
        std::string block = "setup " + sheet.car + " " + sheet.title() + " " + sheet.remarks;
        for (const SheetValue& value : got(library.setup(sheet.id)).values)
            block += "\n" + value.name + "=" + value.value + " " + value.unit;
        out.insert(block);
    }
    for (const CarSheet& sheet : got(library.car_sheets())) {
        std::string block = "car " + sheet.car + " " + sheet.season + " " + sheet.valid_from;
        for (const SheetValue& value : sheet.values) block += "\n" + value.name + "=" + value.value + " " + value.unit;
        out.insert(block);
    }
    for (const FormulaVersion& set : got(library.formula_sets()))
        for (const FormulaVersion& version : got(library.formula_history(set.set_name)))
            out.insert("formulas " + version.set_name + " " + std::to_string(version.version) + "\n" + version.content);
    for (const EventRow& event : got(library.events()))
        out.insert("event " + event.name + "|" + event.place + "|" + event.date + "|" + event.weather + "|" +
                   event.remarks + "|" + event.zone);
    for (const auto& [alias, quantity] : got(library.aliases())) out.insert("alias " + alias + "=" + quantity);
    for (const char* part : {"recordings", "tracks", "originals"})
        for (const std::string& file : blocks_of_folder(folder / part)) out.insert(std::string(part) + ": " + file);
    if (!got(library.unfiled_recordings()).empty()) out.insert("unfiled recordings");
    return out;
}

}  // namespace rendak::test
