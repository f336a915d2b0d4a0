#include "demo/write_demo.h"

#include <cmath>
#include <future>
#include <mutex>

#include "core/base/date.h"
#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/intake/edit_track.h"
#include "core/intake/import.h"
#include "core/intake/road_laps.h"
#include "core/intake/shared_track.h"
#include "core/intake/watch_book.h"
#include "core/recording/csv_writer.h"
#include "core/recording/gpx.h"
#include "core/track/edit.h"
#include "core/track/learn.h"
#include "core/video/film_book.h"
#include "demo/camera.h"
#include "demo/card.h"
#include "demo/paperwork.h"
#include "demo/sensors.h"
#include "demo/truth.h"

namespace rendak::demo {
namespace {

Result<void> make_folder(const std::filesystem::path& folder) {
    std::error_code code;
    std::filesystem::create_directories(folder, code);
    if (code) return pass_on(io_error("make the folder", folder, code.value()));
    return {};
}

std::string stem(const RunPlan& plan) {
    std::string name = lower(plan.session + " " + plan.name);
    for (char& c : name) c = c == ' ' ? '-' : c;
    return name;
}

struct Made {
    Drive drive;
    Recording recording;
    std::string truth;
};

class DemoWriter {
  public:
    DemoWriter(const std::filesystem::path& folder, Library& library, const JobContext& job)
        : files_(folder / "demo-files"),
          truths_(folder / "truth"),
          films_folder_(folder / "demo-files" / "video"),
          library_(library),
          job_(job) {}

    Result<void> write(DemoParts parts) {
        films_ = parts.films;
        if (auto done = file_paperwork(library_); !done) return done;
        const auto plans = saturday();
        const double share = parts.sunday ? 0.25 : 0.7;
        if (auto done = all(plans, job_.part(0, share),
                            [this](const RunPlan& plan, Made& made) { return file_saturday(plan, made); });
            !done)
            return done;
        const auto known = library_.find_track(circuit_.name);
        if (!known) return pass_on(known.error());
        if (!*known) {
            const auto learnt = learn_track_from_run(library_, baseline_, circuit_.name,
                                                     StartPlace{circuit_.origin, circuit_.heading_deg});
            if (!learnt) return pass_on(learnt.error());
        }
        if (parts.sunday) {
            const auto file = [this](const RunPlan& plan, Made& made) { return file_directly(plan, made); };
            auto plans_left = sunday();
            plans_left.push_back(edge_laps());
            if (auto done = all(plans_left, job_.part(share, 0.8), file); !done) return done;
            if (auto done = survey_track(job_.part(0.8, 0.86)); !done) return done;
            circuit_ = corrin_hill();
            if (auto done = all(hill_climb(), job_.part(0.86, 0.89), file); !done) return done;
            if (auto done = learn_hill(); !done) return done;
            circuit_ = skerrow_point();
            if (auto done = file_guest_papers(library_); !done) return done;
            if (auto done = all({guest_car()}, job_.part(0.89, 0.9), file); !done) return done;
        }
        if (parts.waiting) {
            if (auto done = write_waiting_recordings(files_ / "card", circuit_, job_.part(0.9, 1)); !done) return done;
        }
        if (auto done = file_films(); !done) return done;
        job_.report(1);
        return {};
    }

  private:
    /// What a camera of a run films, and where its film lies.
    struct Filmed {
        std::string name;
        RunId run;
        CameraPlan plan;
        std::future<Result<void>> written;
    };

    /// Films the quickest lap of a run beside everything else that is being written.
    Result<void> begin_films(const RunPlan& plan, RunId run, const Made& made) {
        const auto& crossings = made.drive.crossings_s;
        std::size_t best = 0;
        for (std::size_t k = 1; k + 1 < crossings.size(); ++k)
            if (crossings[k + 1] - crossings[k] < crossings[best + 1] - crossings[best]) best = k;
        const auto shared = std::make_shared<const Made>(Made{made.drive, made.recording, {}});
        for (const bool forward : {true, false}) {
            Filmed it;
            it.name = stem(plan) + (forward ? "-forward.mp4" : "-driver.mp4");
            it.run = run;
            it.plan.view = forward ? CameraPlan::View::forward : CameraPlan::View::driver;
            // Quick to write: H.264 took four times as long at the first start.
            it.plan.codec = "mpeg4";
            it.plan.width = forward ? 400 : 256;
            it.plan.height = forward ? 224 : 144;
            it.plan.time_s = {crossings[best] - (forward ? 6.48 : 5.16), crossings[best + 1] + 3};
            it.plan.seed = plan.seed + (forward ? 1 : 2);
            // The cameras' clocks are wrong, each by something else.
            const double off_s = forward ? 41.3 : -73.8;
            const double start = made.recording.start_unix_s.value_or(0) + it.plan.time_s.begin + off_s;
            it.plan.start = utc_text(std::floor(start), "%Y-%m-%dT%H:%M:%SZ");
            const auto file = films_folder_ / it.name;
            // The driver's camera of run 3 has a receiver of its own, by the same wrong clock.
            if (!forward && plan.name == "Run 3") {
                Recording log = pocket_logger(circuit_, plan, made.drive);
                log.start_unix_s = made.recording.start_unix_s.value_or(0) + pocket_late_s + off_s;
                if (auto done = write_gpx(log, films_folder_ / (stem(plan) + "-driver-log.gpx")); !done) return done;
            }
            it.written = std::async(std::launch::async, [this, shared, camera = it.plan, file]() -> Result<void> {
                std::error_code code;
                if (std::filesystem::exists(file, code)) return {};
                const std::scoped_lock one_at_a_time(filming_);
                return film_run(saturdays_, shared->drive, shared->recording, camera, file, {job_.stop, {}});
            });
            filmed_.push_back(std::move(it));
        }
        return {};
    }

    /// Waits for the films, files them, and puts them in step; the driver's film of run 3 is left to be tried.
    Result<void> file_films() {
        std::string truth = "{";
        for (Filmed& it : filmed_) {
            if (auto done = it.written.get(); !done) return done;
            const auto file = films_folder_ / it.name;
            AddFilm add;
            add.files = {file};
            const bool forward = it.plan.view == CameraPlan::View::forward;
            add.camera = forward ? "forward" : "driver";
            if (const auto row = library_.run(it.run)) add.car = row->car;
            add.keep = true;
            const auto film = add_film(library_, add, {job_.stop, {}});
            if (!film && film.error().code != ErrorCode::exists) return pass_on(film.error());
            truth += (truth.size() > 1 ? ", " : "") + ("\"" + it.name + "\": ") + fixed(it.plan.time_s.begin, 4);
            if (!film || it.name == "saturday-run-3-driver.mp4") continue;
            // As somebody would by hand, to half a frame.
            FilmPlace place{it.run, {std::round(it.plan.time_s.begin * 50) / 50, 1}, "by hand", {}};
            if (auto done = place_film(library_, film->id, place); !done) return done;
        }
        return write_file(truths_ / "films.json", truth + "}\n");
    }

    /// Simulates one run while the one before is filed.
    template <class File>
    Result<void> all(const std::vector<RunPlan>& plans, const JobContext& job, File file) {
        const auto made = [this](const RunPlan& plan) {
            Made out;
            out.drive = drive_run(circuit_, plan.car, plan);
            out.recording = main_logger(circuit_, plan.car, plan, out.drive);
            out.truth = truth_json(circuit_, plan, out.drive);
            return out;
        };
        auto next = std::async(std::launch::async, made, plans.front());
        for (std::size_t i = 0; i < plans.size(); ++i) {
            Made now = next.get();
            if (job_.stopped())
                return fail(ErrorCode::cancelled, "Cancelled; the runs written so far stay.", files_.string());
            if (i + 1 < plans.size()) next = std::async(std::launch::async, made, plans[i + 1]);
            if (auto done = write_file(truths_ / (stem(plans[i]) + ".json"), now.truth); !done) return done;
            if (auto done = file(plans[i], now); !done) return done;
            job.report(static_cast<double>(i + 1) / static_cast<double>(plans.size()));
        }
        return {};
    }

    Result<void> file_saturday(const RunPlan& plan, Made& made) {
        const std::string name = "REC000" + plan.name.substr(plan.name.size() - 1) + ".MF4";
        const auto card = files_ / "card" / name;
        if (auto done = write_card_file(made.recording, card); !done) return done;
        if (plan.name != "Run 1") {
            const Recording pocket = pocket_logger(circuit_, plan, made.drive);
            auto done = plan.name == "Run 2" ? write_csv(pocket, files_ / "saturday-run-2-pocket.csv")
                                             : write_gpx(pocket, files_ / "saturday-run-3-phone.gpx");
            if (!done) return done;
        }
        const auto digest = sha256_of_file(card);
        if (!digest) return pass_on(digest.error());
        std::error_code code;
        ImportOptions options;
        auto facts = facts_of(library_, plan);
        if (!facts) return pass_on(facts.error());
        static_cast<RunFacts&>(options) = std::move(*facts);
        options.raw = RawFile{*digest, name, std::filesystem::file_size(card, code), "demo-files/card/" + name};
        const auto run = import_file(library_, card, options);
        if (!run) return pass_on(run.error());
        if (plan.name == "Run 2") baseline_ = run->run;
        if (films_ && plan.name != "Run 1") return begin_films(plan, run->run, made);
        return {};
    }

    /// Edges, height, banking, sector lines and the pit lane of Skerrow Point, from what was driven.
    Result<void> survey_track(const JobContext& job) {
        const auto found = library_.find_track(circuit_.name);
        if (!found) return pass_on(found.error());
        if (!*found) return fail(ErrorCode::not_found, "The demo's track is missing.");
        const auto id = *found;
        auto track = read_track(library_, *id);
        if (!track) return pass_on(track.error());
        if (track->edges.source != Edges::Source::none) return {};
        const auto left = driven_offsets(library_, {last_, 1}), right = driven_offsets(library_, {last_, 3});
        if (!left || !right) return pass_on((left ? right : left).error());
        auto edges = edges_from_edge_laps(*track, *left, *right);
        if (!edges) return pass_on(edges.error());
        track->edges = std::move(*edges);
        const auto laps = road_laps(library_, *id, job, 24);
        if (!laps) return pass_on(laps.error());
        track->height = height_profile(*track, laps->height_m);
        track->banking = banking_profile(*track, laps->cornering);
        track->sector_lines_m = {std::round(0.33 * track->length_m), std::round(0.68 * track->length_m)};
        if (const auto run = load_run(library_, baseline_); run && !(*run)->laps.empty()) {
            const Lap& out_lap = (*run)->laps.front();
            track->pit_lane = pit_lane_from(*(*run)->path, *track, {out_lap.start_s, out_lap.end_s});
        }
        const auto state = track_state(library_, *id);
        if (!state) return pass_on(state.error());
        return put_track_state(library_, *id, edited_state(*state, *track), false);
    }

    Result<void> learn_hill() {
        const auto known = library_.find_track(circuit_.name);
        if (!known) return pass_on(known.error());
        if (*known) return {};
        auto learnt = learn_track_from_run(library_, last_, circuit_.name, {}, {}, TrackKind::open);
        if (!learnt) return pass_on(learnt.error());
        auto track = read_track(library_, learnt->track);
        if (!track) return pass_on(track.error());
        // The timing stands at 1900 m.
        auto finished = finish_at(*track, circuit_.length_m);
        if (!finished) return pass_on(finished.error());
        const auto state = track_state(library_, learnt->track);
        if (!state) return pass_on(state.error());
        return put_track_state(library_, learnt->track, edited_state(*state, *finished), true);
    }

    Result<void> file_directly(const RunPlan& plan, Made& made) {
        ImportOptions options;
        auto facts = facts_of(library_, plan);
        if (!facts) return pass_on(facts.error());
        static_cast<RunFacts&>(options) = std::move(*facts);
        made.recording.source_name = stem(plan) + ".MF4";
        if (circuit_.open) options.event = "Corrin Hill climb";
        const auto run = import_recording(library_, {std::move(made.recording), {}}, options);
        if (!run) return pass_on(run.error());
        last_ = run->run;
        return {};
    }

    std::filesystem::path files_, truths_, films_folder_;
    Library& library_;
    JobContext job_;
    Circuit circuit_ = skerrow_point();
    RunId baseline_;
    RunId last_;  ///< filed last
    const Circuit saturdays_ = skerrow_point();
    bool films_ = false;
    std::mutex filming_;  ///< one film is drawn while another one is not: there are other things to do
    std::vector<Filmed> filmed_;
};

}  // namespace

Result<void> write_demo(const std::filesystem::path& folder, const JobContext& job, DemoParts parts) {
    for (const auto& part : {folder, folder / "demo-files", folder / "demo-files" / "card",
                             folder / "demo-files" / "video", folder / "truth"}) {
        if (auto made = make_folder(part); !made) return made;
    }
    auto library = Library::open(folder);
    if (!library) return pass_on(library.error());
    if (auto written = DemoWriter(folder, **library, job).write(parts); !written) return written;
    // What is imported is watched.
    const auto rows = (*library)->runs();
    if (!rows) return pass_on(rows.error());
    std::vector<RunId> runs;
    for (const RunRow& row : *rows) runs.push_back(row.id);
    if (const auto watched = check_watch_rules(**library, runs, {job.stop, {}}); !watched)
        return pass_on(watched.error());
    return {};
}

}  // namespace rendak::demo
