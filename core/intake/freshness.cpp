#include "core/intake/freshness.h"

#include <algorithm>

#include "core/base/sha256.h"
#include "core/base/time_zone.h"
#include "core/intake/run_formulas.h"

namespace rendak {
namespace {

/// Changes when the way changes in which figures and rules are computed: what older versions kept is then stale.
constexpr const char* method = "1";

class MarkMaker {
  public:
    void add(const std::string& text) {
        hash_.add(text);
        hash_.add(std::string_view("\0", 1));
    }
    void add(double number) { hash_.add({reinterpret_cast<const char*>(&number), sizeof number}); }
    [[nodiscard]] std::string hex() { return hash_.hex(); }

  private:
    Sha256 hash_;
};

/// What was logged of a run, its stretch of it, and what was said of its channels.
Result<void> add_recording(const Library& library, const RunRow& run, MarkMaker& mark) {
    mark.add(run.digest);
    mark.add(run.window_s ? run.window_s->begin : 0);
    mark.add(run.window_s ? run.window_s->end : 0);
    const auto flipped = library.flipped_quantities(run.id), unused = library.unused_channels(run.id);
    if (!flipped) return pass_on(flipped.error());
    if (!unused) return pass_on(unused.error());
    for (const auto* list : {&*flipped, &*unused}) {
        for (const std::string& it : *list) mark.add(it);
        mark.add("");
    }
    const auto edits = library.channel_edits(run.id);
    if (!edits) return pass_on(edits.error());
    for (const ChannelEdit& it : *edits) {
        mark.add(it.channel);
        mark.add(to_json(it));
    }
    const auto places = library.place_correction(run.id);
    if (!places) return pass_on(places.error());
    for (const double it : {places->east_m, places->north_m, places->delay_s, places->launch_s.value_or(-1)})
        mark.add(it);
    return {};
}

}  // namespace

Result<Freshness> Freshness::of(const Library& library) {
    Freshness out;
    auto sets = formula_sets(library);
    if (!sets) return pass_on(sets.error());
    auto sheets = library.car_sheets();
    if (!sheets) return pass_on(sheets.error());
    auto aliases = library.aliases();
    if (!aliases) return pass_on(aliases.error());
    out.sets_ = std::move(*sets);
    out.sheets_ = std::move(*sheets);
    out.aliases_ = std::make_shared<const Aliases>(std::move(*aliases));
    return out;
}

const Freshness::Papers& Freshness::papers_of(const RunRow& run) {
    const std::string date = run.start_unix_s ? local_text(*run.start_unix_s, run.zone, "%Y-%m-%d") : std::string();
    const std::string key = run.car + '\n' + run.event + '\n' + date;
    if (const auto known = papers_.find(key); known != papers_.end()) return known->second;
    Papers out;
    out.book = std::make_shared<const formula::Book>(formula::book_for(sets_, run.car, run.event));
    out.constants = std::make_shared<const formula::Constants>(formula::constants_for(sheets_, run.car, date));
    out.resolver = std::make_shared<formula::Resolver>(*out.book, *out.constants, *aliases_, nullptr);
    // What the sheet says of pedals decides on every flag of the driver.
    MarkMaker limits, names;
    for (const char* limit : {"brake_on", "throttle_on", "throttle_full", "cornering_from", "braking_from",
                              "throttle_from", "ride_height_front_least", "ride_height_rear_least"}) {
        const auto found = out.constants->values.find(limit);
        limits.add(found == out.constants->values.end() ? 0 : found->second.value);
    }
    for (const auto& [alias, quantity] : *aliases_) {
        limits.add(alias);
        limits.add(quantity);
    }
    for (const auto& [name, entry] : out.book->entries) {
        names.add(name);
        names.add(entry.formula.text);
        names.add(entry.formula.unit);
    }
    for (const auto& [name, constant] : out.constants->values) {
        names.add(name);
        names.add(constant.value);
    }
    out.limits = limits.hex();
    out.names = names.hex();
    return papers_.emplace(key, std::move(out)).first->second;
}

Result<Freshness::OfRun> Freshness::of_run(const Library& library, const RunRow& run) {
    MarkMaker ground;
    ground.add(method);
    ground.add(run.tyre_set);
    if (auto done = add_recording(library, run, ground); !done) return pass_on(done.error());
    const auto joined = library.joined_runs(run.id);
    if (!joined) return pass_on(joined.error());
    for (const RunRow& it : *joined) {
        if (auto done = add_recording(library, it, ground); !done) return pass_on(done.error());
        ground.add(it.join_offset_s);
    }
    if (run.track) {
        auto known = tracks_.find(run.track);
        if (known == tracks_.end()) {
            const auto track = library.track_geojson(run.track);
            if (!track) return pass_on(track.error());
            MarkMaker mark;
            mark.add(*track);
            known = tracks_.emplace(run.track, mark.hex()).first;
        }
        ground.add(known->second);
    }
    OfRun out;
    auto laps = library.laps(run.id);
    if (!laps) return pass_on(laps.error());
    for (const Lap& lap : *laps) {
        ground.add(lap.start_s);
        ground.add(lap.end_s);
        ground.add(static_cast<double>(lap.number));
        ground.add(lap_kind_name(lap.kind));
        out.counts_ += lap.counts() ? '1' : '0';
    }
    out.laps_ = std::move(*laps);
    const Papers& papers = papers_of(run);
    ground.add(papers.limits);
    out.book_ = papers.book;
    out.constants_ = papers.constants;
    out.aliases_ = aliases_;
    out.resolver_ = papers.resolver;
    out.ground_ = ground.hex();
    out.names_ = papers.names + out.counts_;
    return out;
}

std::string Freshness::OfRun::channel(const std::string& name) {
    return has_formula(name) ? formula(name) : ground_;
}

bool Freshness::OfRun::asks_for_quickest(const formula::CheckedFormula& formula) {
    return std::any_of(formula.uses.begin(), formula.uses.end(), [&](const formula::Use& use) {
        if (use.named.id == "quickest_offset") return true;
        if (use.named.kind != formula::Named::Kind::formula) return false;
        const auto& checked = resolver_->checked(use.named.id);
        return checked && asks_for_quickest(*checked);
    });
}

std::string Freshness::OfRun::formula(const std::string& text) {
    if (const auto known = marks_.find(text); known != marks_.end()) return known->second;
    MarkMaker mark;
    mark.add(ground_);
    // Without the recording a channel by its own name is not known: then anything may have changed.
    if (const auto checked = formula::check(text, resolver_->names(), "")) {
        mark.add(resolver_->fingerprint(*checked, text, 0));
        // The quickest line is that of the laps that count.
        if (asks_for_quickest(*checked)) mark.add(counts_);
    } else {
        mark.add(names_);
    }
    mark.add(text);
    return marks_[text] = mark.hex();
}

}  // namespace rendak
