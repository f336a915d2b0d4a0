#include "core/bundle/run_difference.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"
#include "core/library/run_fields.h"

namespace rendak {
namespace {

std::string differing_facts(const RunFacts& mine, const RunFacts& theirs) {
    std::string out;
    const auto compare = [&](const char* name, const std::string& a, const std::string& b) {
        if (a != b) out += (out.empty() ? "" : "; ") + std::string(name) + " \"" + a + "\" here, \"" + b + "\" there";
    };
    const auto number = [](const std::optional<double>& value) { return value ? fixed(*value, 3) : std::string(); };
    compare("event", mine.event, theirs.event);
    compare("session", mine.session, theirs.session);
    compare("name", mine.name, theirs.name);
    compare("driver", mine.driver, theirs.driver);
    compare("car", mine.car, theirs.car);
    for (const RunField& field : all_run_fields()) {
        if (field.is_text())
            compare(lower(field.label).c_str(), mine.*field.text, theirs.*field.text);
        else
            compare(lower(field.label).c_str(), number(mine.*field.number), number(theirs.*field.number));
    }
    return out;
}

}  // namespace

RunFacts facts_for(const BundleRun& run, const std::map<std::string, SetupId>& setups) {
    RunFacts facts = run.facts;
    const auto found = setups.find(run.setup);
    facts.setup = found == setups.end() ? SetupId{} : found->second;
    return facts;
}

Result<std::vector<PictureNote>> new_notes(const Library& library, RunId mine, const BundleRun& run) {
    const auto own = library.picture_notes(mine);
    if (!own) return pass_on(own.error());
    std::vector<PictureNote> out;
    for (const PictureNote& note : run.picture_notes) {
        const bool known = std::any_of(own->begin(), own->end(), [&](const PictureNote& it) {
            return it.text == note.text && it.quantity == note.quantity && std::abs(it.at_s - note.at_s) < 1e-3;
        });
        if (!known) out.push_back(note);
    }
    return out;
}

Result<std::string> difference_of(const Library& library, const RunRow& mine, const BundleRun& run,
                                  const RunFacts& theirs) {
    std::string out = differing_facts(mine, theirs);
    const auto notes = new_notes(library, mine.id, run);
    if (!notes) return pass_on(notes.error());
    if (!notes->empty())
        out += (out.empty() ? "" : "; ") + std::to_string(notes->size()) + (notes->size() == 1 ? " note" : " notes") +
               " on its pictures that you do not have";
    const auto official = library.official_laps(mine.id);
    if (!official) return pass_on(official.error());
    if (!run.official_laps.empty() && run.official_laps != *official)
        out += std::string(out.empty() ? "" : "; ") + "lap times of the timing system differ";
    return out;
}

}  // namespace rendak
