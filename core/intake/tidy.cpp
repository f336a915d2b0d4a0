#include "core/intake/tidy.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/alignment.h"
#include "core/analysis/channel_faults.h"
#include "core/base/text.h"
#include "core/base/time_zone.h"
#include "core/intake/edit_track.h"
#include "core/intake/import.h"
#include "core/intake/place_run.h"
#include "core/intake/places_apart.h"
#include "core/intake/run_date.h"
#include "core/intake/run_recording.h"
#include "core/laps/beacon.h"
#include "core/laps/cut.h"
#include "core/laps/driver_activity.h"
#include "core/signal/quantity.h"
#include "core/track/edit.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

std::string date_text(double unix_s, const std::string& zone) {
    return local_text(unix_s, zone, "%d %B %Y, %H:%M");
}

/// Recording time as minutes and seconds.
std::string clock_text(double t) {
    const auto seconds = static_cast<long>(std::max(0.0, std::round(t)));
    const std::string rest = std::to_string(seconds % 60);
    return std::to_string(seconds / 60) + ":" + (rest.size() < 2 ? "0" : "") + rest;
}

class Tidy {
  public:
    Tidy(const Library& library, RunRow row, const JobContext& job)
        : library_(library), row_(std::move(row)), job_(job) {}

    Result<std::vector<Finding>> look() {
        if (!row_.damage.empty()) {
            add("damaged", row_.damage);
            return std::move(out_);
        }
        if (auto known = read_catalogue(); !known) return pass_on(known.error());
        auto recording = run_recording(library_, row_.id);
        if (!recording) return pass_on(recording.error());
        recording_ = std::move(*recording);
        job_.report(0.1);
        check_file();
        check_date();
        check_laps();
        check_positions();
        check_split();
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        check_channels(job_.part(0.2, 0.7));
        check_pedals();
        check_joins(job_.part(0.7, 1));
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        const auto accepted = library_.accepted_findings(row_.id);
        if (!accepted) return pass_on(accepted.error());
        for (Finding& finding : out_) {
            finding.accepted = std::find(accepted->begin(), accepted->end(), finding.id) != accepted->end();
            finding.apply = in_one_act(std::move(finding.apply));
            finding.undo = in_one_act(std::move(finding.undo));
        }
        return std::move(out_);
    }

  private:
    using Cure = std::function<Result<void>(Library&)>;
    /// A cure of several edits is done whole or not at all.
    static Cure in_one_act(Cure cure) {
        if (!cure) return cure;
        return [cure = std::move(cure)](Library& library) -> Result<void> {
            Library::Act act(library);
            if (auto begun = act.begun(); !begun) return begun;
            if (auto done = cure(library); !done) return done;
            return act.commit();
        };
    }

    Result<void> read_catalogue() {
        auto others = library_.runs();
        if (!others) return pass_on(others.error());
        others_ = std::move(*others);
        auto laps = library_.laps(row_.id);
        if (!laps) return pass_on(laps.error());
        laps_ = std::move(*laps);
        const auto correction = library_.place_correction(row_.id);
        if (!correction) return pass_on(correction.error());
        correction_ = *correction;
        const auto parts = library_.joined_runs(row_.id);
        if (!parts) return pass_on(parts.error());
        has_parts_ = !parts->empty();
        return {};
    }

    Finding& add(std::string id, std::string what, std::string cure = {}) {
        out_.push_back({std::move(id), std::move(what), std::move(cure), false, {}, {}, false});
        return out_.back();
    }

    void check_file() {
        for (const std::string& note : row_.notes) {
            if (note.find("ends in the middle") != std::string::npos) add("cut-off", note);
        }
    }

    void check_date() {
        if (!row_.start_unix_s) {
            add("no-date", "The recording has no date. Enter it with the run's facts, so that runs stay in order.");
            return;
        }
        if (!has_doubtful_date(row_, others_)) return;
        const auto day = day_of_event(row_, others_);
        std::string what = "The logger's clock was wrong: it says " + date_text(*row_.start_unix_s, row_.zone);
        if (!day) {
            add("date", what + ". Enter the right date with the run's facts.");
            return;
        }
        const double right = on_day(row_, *day);
        what += "; the other runs of this session are of " + local_text(*day, "UTC", "%d %B %Y") + ".";
        Finding& finding = add("date", what, "Date it " + date_text(right, row_.zone));
        const double before = row_.clock_shift_s, after = before + right - *row_.start_unix_s;
        finding.apply = [id = row_.id, after](Library& library) { return library.set_clock_shift(id, after); };
        finding.undo = [id = row_.id, before](Library& library) { return library.set_clock_shift(id, before); };
    }

    void check_laps() {
        const std::vector<Lap>& laps = laps_;
        const Lap* best = best_lap(laps);
        std::string parts;
        std::vector<Lap> slow;
        for (const Lap& lap : laps) {
            if (lap.kind == LapKind::part && lap.time_s() < 15)
                parts += (parts.empty() ? "" : ", ") + fixed(lap.time_s(), 1) + " s";
            if (lap.kind == LapKind::flying && lap.included && best != nullptr && lap.time_s() > 1.07 * best->time_s())
                slow.push_back(lap);
        }
        if (!parts.empty())
            add("part-laps", "Part laps of " + parts + " at the ends of the recording; they do not count.");
        if (!slow.empty()) {
            std::string names;
            for (const Lap& lap : slow)
                names += (names.empty() ? "Lap " : ", lap ") + std::to_string(lap.number) + " (+" +
                         fixed(lap.time_s() - best->time_s(), 1) + " s)";
            Finding& finding = add("slow-laps",
                                   names + (slow.size() == 1 ? " is" : " are") +
                                       " more than 7 % slower than the best: traffic, an off or a slow lap on purpose? "
                                       "In averages it misleads.",
                                   "Leave " + std::string(slow.size() == 1 ? "it" : "them") + " out");
            const double best_s = best->time_s();
            finding.apply = [id = row_.id, slow, best_s](Library& library) -> Result<void> {
                for (const Lap& lap : slow) {
                    auto done = library.switch_lap({id, lap.number}, false,
                                                   "slow: +" + fixed(lap.time_s() - best_s, 1) + " s to the best");
                    if (!done) return done;
                }
                return {};
            };
            finding.undo = [id = row_.id, slow](Library& library) -> Result<void> {
                for (const Lap& lap : slow) {
                    auto done = lap.switched_by_hand ? library.switch_lap({id, lap.number}, true, lap.reason)
                                                     : library.unswitch_lap({id, lap.number});
                    if (!done) return done;
                }
                return {};
            };
        }
    }

    void check_positions() {
        std::optional<Track> track;
        if (row_.track) {
            if (const auto text = library_.track_geojson(row_.track)) {
                if (auto known = track_from_geojson(*text, row_.track_name)) track = std::move(*known);
            }
        }
        const PlaceCorrection& correction = correction_;
        const auto path = driven_path(recording_, track ? &*track : nullptr, correction);
        if (!path) {
            add("no-positions", path.error().message);
            return;
        }
        double missing = 0;
        std::string stretches;
        std::size_t begin = 0, count = 0;
        for (std::size_t i = 1; i <= path->size(); ++i) {
            if (i < path->size() && path->bridged[i]) {
                if (begin == 0) begin = i;
                continue;
            }
            const double length = begin == 0 ? 0 : path->time_s[i - 1] - path->time_s[begin - 1];
            if (length > 0.5) {
                missing += length;
                if (++count <= 4)
                    stretches += (stretches.empty() ? "" : ", ") + clock_text(path->time_s[begin]) + " (" +
                                 fixed(length, 1) + " s)";
            }
            begin = 0;
        }
        if (count > 0)
            add("gps-gaps", "Positions are missing for " + fixed(missing, 1) + " s, at " + stretches +
                                (count > 4 ? " and more" : "") + "; the path is bridged there and hatched.");
        if (track && !path->by_shape) {
            const std::size_t before = out_.size();
            check_shift(*path, *track, correction);
            check_delay(correction);
            if (out_.size() == before) check_along(*path, *track, correction);
        }
        if (track) check_trust();
        if (track) {
            if (const auto offset = beacon_offset(recording_, *path, laps_)) add_loggers_line(*offset, *track);
        } else {
            add("no-track",
                "The place is not known yet. Learn the track from a run with a complete lap, and its laps are cut.");
        }
    }

    /// The laps are right already; the act is for tracks whose line nobody has placed with care: there the logger's may
    /// be the official one.
    void add_loggers_line(const BeaconOffset& offset, const Track& track) {
        Finding& finding =
            add("start-line",
                "The logger's own start line lies " + fixed(std::abs(offset.behind_m), 0) + " m " +
                    (offset.behind_m > 0 ? "behind" : "before") +
                    " the track's. Its laps are cut at the track's line, like everybody's; its own lap times differ.",
                track.open ? "" : "Move the track's line there instead, for every run");
        finding.is_alternative = true;
        if (track.open) return;
        const auto before = track_state(library_, row_.track);
        const double moved_m = track.wrapped(offset.behind_m);
        const auto moved = move_start(track, moved_m);
        if (!before || !moved) return;
        const auto put = [id = row_.track](const TrackState& state) {
            return [id, state](Library& library) { return put_track_state(library, id, state, true); };
        };
        finding.apply = put(edited_state(*before, *moved, moved_m));
        finding.undo = put(*before);
    }

    /// A cure that changes the run's place correction and cuts its laps again.
    void correct_place(Finding& finding, const PlaceCorrection& before, const PlaceCorrection& after) {
        const auto put = [id = row_.id](const PlaceCorrection& correction) {
            return [id, correction](Library& library) -> Result<void> {
                if (auto done = library.set_place_correction(id, correction); !done) return done;
                return recut_run(library, id);
            };
        };
        finding.apply = put(after);
        finding.undo = put(before);
    }

    void check_shift(const Path& path, const Track& track, const PlaceCorrection& correction) {
        const auto found = position_shift(path, track, laps_);
        if (!found || !found->stands_out()) return;
        const double along = dot(found->shift, track.start.direction);
        Finding& finding = add("position-shift",
                               "The positions of this run lie " + fixed(length(found->shift), 1) +
                                   " m off the track's line, alike on every lap: another receiver or frame. Its start "
                                   "line lies " +
                                   fixed(std::abs(along), 1) + " m too " + (along > 0 ? "early." : "late."),
                               "Move them onto the track");
        PlaceCorrection after = correction;
        after.east_m += found->shift.x;
        after.north_m += found->shift.y;
        correct_place(finding, correction, after);
    }

    void check_along(const Path& path, const Track& track, const PlaceCorrection& correction) {
        const auto found =
            places_apart_from_others(library_, others_, row_, recording_, path, track, laps_, correction);
        if (!found) return;
        Finding& finding = add("along-offset", found->what, found->cure);
        if (found->after) correct_place(finding, correction, *found->after);
    }

    void check_delay(const PlaceCorrection& correction) {
        const auto found = position_delay(recording_);
        if (!found || !found->stands_out()) return;
        Finding& finding =
            add("position-delay",
                "The positions come " + fixed(std::abs(found->delay_s), 2) + " s " +
                    (found->delay_s > 0 ? "later" : "earlier") + " than the other channels: at 180 km/h that is " +
                    fixed(50 * std::abs(found->delay_s), 0) + " m.",
                "Move them by " + fixed(std::abs(found->delay_s), 2) + " s");
        PlaceCorrection after = correction;
        after.delay_s += found->delay_s;
        correct_place(finding, correction, after);
    }

    void check_trust() {
        double worst = 0;
        for (const Lap& lap : laps_) worst = std::max(worst, lap.trust_m);
        if (worst > poor_trust_m)
            add("poor-places", "Places along the track are good to " + fixed(worst, 1) +
                                   " m only; differences of lines and braking points below that say nothing.");
    }

    void check_split() {
        const auto parts = stints(speed_trace(recording_));
        if (parts.size() < 2 || has_parts_) return;
        std::string what = "The file holds " + std::to_string(parts.size()) + " stints with long stops between:";
        for (const Interval& part : parts)
            what += " " + clock_text(part.begin) + " – " + clock_text(part.end) + (part == parts.back() ? "." : ",");
        Finding& finding = add("split", what, "Split into " + std::to_string(parts.size()) + " runs");
        const auto made = std::make_shared<std::vector<RunId>>();
        finding.apply = [row = row_, parts, made](Library& library) -> Result<void> {
            made->clear();
            if (auto done = library.set_window(row.id, parts.front()); !done) return done;
            for (std::size_t i = 1; i < parts.size(); ++i) {
                const auto run = library.add_window(row.id, parts[i], row.name + " (" + std::to_string(i + 1) + ")");
                if (!run) return pass_on(run.error());
                made->push_back(*run);
                if (auto done = recut_run(library, *run); !done) return done;
            }
            return recut_run(library, row.id);
        };
        finding.undo = [row = row_, made](Library& library) -> Result<void> {
            for (const RunId run : *made) {
                if (auto done = library.remove_run(run); !done) return done;
            }
            if (auto done = library.set_window(row.id, row.window_s); !done) return done;
            return recut_run(library, row.id);
        };
    }

    /// Pedals that cannot be as they read. They are used as they are (see PedalScales); that is said, and can be
    /// accepted.
    void check_pedals() {
        const PedalScales scales = pedal_scales(recording_);
        const PedalScale& throttle = scales.throttle;
        const auto percent = [](double share) { return fixed(100 * share, 0) + " %"; };
        if (throttle.known && throttle.held_at_end && throttle.full < 0.95)
            add("pedal-end:throttle", "The throttle never reaches its end: it is held at " + percent(throttle.full) +
                                          ", which is taken for full throttle. Is the pedal's travel set right?");
        if (throttle.known && throttle.zero > 0.04)
            add("pedal-open:throttle", "The throttle stands open: it never falls below " + percent(throttle.zero) +
                                           ", which is taken for a released pedal.");
        const PedalScale& brake = scales.brake;
        const Channel* channel = recording_.find_logged(scales.brake_quantity);
        if (!brake.known || channel == nullptr) return;
        const bool pressure = scales.brake_quantity == "brake_front";
        const double much = pressure ? 1e5 : 0.04;
        if (std::abs(brake.zero) > much)
            add("pedal-zero:brake", channel->name + " reads " + shown(*channel, brake.zero) +
                                        " while nobody brakes; braking is counted from there.");
        if (brake.drift > much)
            add("pedal-drift:brake",
                "The zero of " + channel->name + " moves by " + shown(*channel, brake.drift) +
                    " over the run, as sensors do that get hot; braking is counted from where it is.");
    }

    void check_channels(const JobContext& job) {
        for (const ChannelFault& fault : channel_faults(recording_, job)) {
            const Channel* channel = recording_.find_name(fault.channel);
            const std::string value = channel == nullptr ? "" : shown(*channel, fault.value);
            std::string id, what = fault.channel;
            switch (fault.kind) {
                case ChannelFault::Kind::dead:
                    id = "dead:";
                    what += std::isnan(fault.value)
                                ? " holds no value at all: the sensor is dead or not connected."
                                : " reads " + value + " all the time: the sensor is dead or not connected.";
                    break;
                case ChannelFault::Kind::stuck: {
                    id = "stuck:";
                    double seconds = 0;
                    for (const Interval& part : fault.where_s) seconds += part.length();
                    what += " stands still for " + fixed(seconds, 0) + " s while the car moves, from " +
                            clock_text(fault.where_s.front().begin) + " on.";
                    break;
                }
                case ChannelFault::Kind::saturated:
                    id = "saturated:";
                    what += " is cut off at " + value + " (" + fixed(100 * fault.share, 1) +
                            " % of its samples): the sensor's range is too small.";
                    break;
                case ChannelFault::Kind::spiking:
                    id = "spiking:";
                    what += " has " + counted(fault.count, "spike", "spikes") + ", the first at " +
                            clock_text(fault.where_s.front().begin + 0.5) + ": a loose contact?";
                    break;
            }
            Finding& finding = add(id + fault.channel, what, "Leave " + fault.channel + " out of this run");
            finding.apply = [id = row_.id, name = fault.channel](Library& library) {
                return library.set_unused(id, name, true);
            };
            finding.undo = [id = row_.id, name = fault.channel](Library& library) {
                return library.set_unused(id, name, false);
            };
        }
    }

    static std::string shown(const Channel& channel, double value) {
        const Quantity* quantity = find_quantity(channel.quantity);
        const auto unit =
            quantity == nullptr ? Result<Unit>(fail(ErrorCode::not_found, "")) : parse_unit(quantity->shown_unit);
        if (!unit) return fixed(value, 2) + (channel.unit.empty() ? "" : " " + channel.unit);
        return fixed(unit->from_si(value), quantity->decimals) + " " + std::string(quantity->shown_unit);
    }

    /// Other runs that may be the same drive: of the same event or hour, of a length that fits, of another logger.
    void check_joins(const JobContext& job) {
        const SpeedTrace own = speed_trace(recording_);
        std::vector<const RunRow*> candidates;
        for (const RunRow& other : others_) {
            if (other.id == row_.id || other.digest == row_.digest || row_.joined_into) continue;
            // One logger writes one recording at a time: two of its recordings are two runs, however alike.
            if (!row_.logger.empty() && other.logger == row_.logger) continue;
            const double shorter = std::min(other.duration_s, row_.duration_s),
                         longer = std::max(other.duration_s, row_.duration_s);
            if (shorter < 60 || shorter < 0.3 * longer) continue;
            const bool same_event = other.event == row_.event;
            const bool same_hour = other.start_unix_s && row_.start_unix_s &&
                                   std::abs(*other.start_unix_s - *row_.start_unix_s) < 3 * 3600;
            if (same_event || same_hour || !other.start_unix_s || !row_.start_unix_s) candidates.push_back(&other);
        }
        // The nearest in time first; a large event need not be searched through.
        std::sort(candidates.begin(), candidates.end(),
                  [this](const RunRow* a, const RunRow* b) { return apart(*a) < apart(*b); });
        candidates.resize(std::min<std::size_t>(candidates.size(), 24));
        for (std::size_t i = 0; i < candidates.size() && !job.stopped(); ++i) {
            job.report(static_cast<double>(i) / static_cast<double>(candidates.size()));
            const RunRow& other = *candidates[i];
            const auto recording = run_recording(library_, other.id);
            if (!recording) continue;
            const auto match = match_speeds(own, speed_trace(*recording));
            if (!match || !match->same_run()) continue;
            // The richer recording keeps its clock.
            const bool other_is_part = recording->channels.size() <= recording_.channels.size();
            const RunId main = other_is_part ? row_.id : other.id, part = other_is_part ? other.id : row_.id;
            const double offset = other_is_part ? match->offset_s : -match->offset_s;
            Finding& finding = add("join:" + std::to_string(other.id.value),
                                   other.name + " (" + other.source_name +
                                       ") is another recording of the same run: speeds agree within " +
                                       fixed(match->rms_mps * 3.6, 1) + " km/h over " + clock_text(match->overlap_s) +
                                       " when it is moved by " + fixed(match->offset_s, 2) + " s.",
                                   other_is_part ? "Join it to this run" : "Join this one to " + other.name);
            finding.apply = [part, main, offset](Library& library) { return library.set_join(part, main, offset); };
            finding.undo = [part](Library& library) { return library.set_join(part, {}, 0); };
        }
    }

    [[nodiscard]] double apart(const RunRow& other) const {
        if (!other.start_unix_s || !row_.start_unix_s) return 0;
        return std::abs(*other.start_unix_s - *row_.start_unix_s);
    }

    const Library& library_;
    RunRow row_;
    JobContext job_;
    std::vector<RunRow> others_;
    std::vector<Lap> laps_;
    PlaceCorrection correction_;
    bool has_parts_ = false;
    Recording recording_;
    std::vector<Finding> out_;
};

}  // namespace

Result<std::vector<Finding>> tidy(Library& library, RunId run, const JobContext& job) {
    if (const auto damage = library.check_recording(run, {job.stop, {}}); !damage) return pass_on(damage.error());
    auto row = library.run(run);
    if (!row) return pass_on(row.error());
    return Tidy(library, std::move(*row), job).look();
}

}  // namespace rendak
