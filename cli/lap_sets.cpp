#include "cli/lap_sets.h"

#include <map>

#include "cli/output.h"

namespace rendak::cli {
namespace {

/// Opens each run once.
class Sets {
  public:
    Sets(Library& library, bool mixed) : library_(library), mixed_(mixed) {}

    Result<LapSet> of(const std::vector<std::string>& words) {
        auto set = named_lap_set(library_, words, mixed_, [&](RunId id) -> Result<std::shared_ptr<const RunData>> {
            auto& run = opened_[id.value];
            if (run != nullptr) return run;
            auto loaded = load_checked(library_, id);
            if (loaded) run = *loaded;
            return loaded;
        });
        if (set && !set->told.empty()) say(set->told);
        return set;
    }

  private:
    Library& library_;
    bool mixed_;
    std::map<std::int64_t, std::shared_ptr<const RunData>> opened_;
};

}  // namespace

Result<Sides> sides_of(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                       bool mixed, const std::vector<std::string>& more) {
    const auto library = open_existing(folder);
    if (!library) return pass_on(library.error());
    Sets sets(**library, mixed);
    auto set_a = sets.of(a);
    if (!set_a) return pass_on(set_a.error());
    const RunRow row_a = set_a->runs.front()->row;
    const auto against_a = [&](const std::vector<std::string>& words) -> Result<LapSet> {
        auto set = sets.of(words);
        if (!set) return set;
        const RunRow& row = set->runs.front()->row;
        if (row_a.track == row.track) return set;
        return fail(ErrorCode::bad_input,
                    "A and B were driven on different tracks (" + row_a.track_name + " and " + row.track_name + ").");
    };
    auto set_b = against_a(b);
    if (!set_b) return pass_on(set_b.error());
    Sides out{std::move(*set_a), std::move(*set_b), {}};
    for (const std::string& word : more) {
        auto set = against_a({word});
        if (!set) return pass_on(set.error());
        out.more.push_back(std::move(*set));
    }
    return out;
}

Result<LapSet> set_of(const std::string& folder, const std::vector<std::string>& words, bool mixed) {
    const auto library = open_existing(folder);
    if (!library) return pass_on(library.error());
    return Sets(**library, mixed).of(words);
}

}  // namespace rendak::cli
