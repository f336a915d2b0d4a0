#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/intake/watch_run.h"
#include "core/library/library.h"

namespace rendak {

/// The rules of a library: its own ones, kept in it, and the shipped ones. An own rule takes the place of the shipped
/// one of its name; one that is off is not looked at.
struct WatchBook {
    std::vector<WatchRule> own;
    [[nodiscard]] std::vector<WatchRule> in_force() const;  ///< the shipped ones first
    [[nodiscard]] const WatchRule* find(const std::string& name) const;
};
[[nodiscard]] Result<WatchBook> watch_book(const Library& library);
/// A new rule, or one in place of that of its name. Fails where its formulas cannot be read at all.
[[nodiscard]] Result<void> put_watch_rule(Library& library, const WatchRule& rule);
/// Takes an own rule away; a shipped one of its name holds again. Fails when there is none.
[[nodiscard]] Result<void> remove_watch_rule(Library& library, const std::string& name);

/// What a rule said of a run when it was checked last.
struct KeptWatch {
    WatchRule rule;
    WatchTold told;
    double seen_unix_s = 0;  ///< when somebody looked at it; 0: nobody did
    bool stale = false;      ///< something changed that it rests on
};
/// Of the rules in force, in their order; those that were not checked yet are left out.
[[nodiscard]] Result<std::vector<KeptWatch>> kept_watch(const Library& library, RunId run);
/// Checks the rules of runs whose answers are not there or are stale, and keeps them; runs with nothing to be checked
/// are not opened. An answer that says the same as before stays looked at. Returns how many runs were opened.
[[nodiscard]] Result<std::size_t> check_watch_rules(Library& library, const std::vector<RunId>& runs,
                                                    const JobContext& job = {});
[[nodiscard]] Result<void> set_watch_seen(Library& library, RunId run, const std::string& rule, bool seen);
/// Runs that no rule was ever checked on.
[[nodiscard]] Result<std::vector<RunId>> unwatched_runs(const Library& library);
/// Runs with rules that speak and were not looked at: how many rules.
[[nodiscard]] Result<std::map<RunId, int>> unseen_watch(const Library& library);

/// What became of a rule over the runs of one car, in the order driven; from what is kept.
struct WatchTrend {
    struct Step {
        RunId run;
        std::string name;       ///< of the run
        std::size_t times = 0;  ///< it spoke
        std::optional<int> first_lap;
        double worst = std::numeric_limits<double>::quiet_NaN();
        double fuel_l = std::numeric_limits<double>::quiet_NaN();  ///< where it spoke first
    };
    std::vector<Step> steps;  ///< of runs of which it can be told
    std::string text;         ///< "speaks in 2 of 5 runs, from lap 13 on with 13.8 l; each run earlier than the last"
};
[[nodiscard]] Result<WatchTrend> watch_trend(const Library& library, const std::string& rule, const std::string& car);

/// As they are kept, and printed by the command line.
[[nodiscard]] std::string told_to_json(const WatchRule& rule, const WatchTold& told);
[[nodiscard]] std::optional<WatchTold> told_from_json(const std::string& text);

}  // namespace rendak
