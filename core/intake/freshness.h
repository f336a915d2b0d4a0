#pragma once

#include <map>
#include <memory>
#include <string>

#include "core/formula/book.h"
#include "core/library/library.h"

namespace rendak {

/// Tells whether something that was computed of runs would come out the same today: marks that change with all that it
/// rests on. It looks at the catalogue and opens no recording.
class Freshness {
  public:
    /// Reads formulas, car sheets and aliases as they are now.
    [[nodiscard]] static Result<Freshness> of(const Library& library);

    /// One run: what was logged and corrected, its window, its laps and its track, and the names that formulas know.
    class OfRun {
      public:
        /// Of a channel or formula by its name.
        [[nodiscard]] std::string channel(const std::string& name);
        /// Of a formula that is in no set.
        [[nodiscard]] std::string formula(const std::string& text);
        [[nodiscard]] const std::vector<Lap>& laps() const { return laps_; }
        [[nodiscard]] bool has_formula(const std::string& name) const { return book_->find(name) != nullptr; }

      private:
        friend class Freshness;
        [[nodiscard]] bool asks_for_quickest(const formula::CheckedFormula& formula);
        std::string ground_;  ///< of all that no formula's own mark tells
        std::string names_;   ///< of all formulas and constants, and which laps count
        std::string counts_;  ///< which laps count
        std::vector<Lap> laps_;
        std::shared_ptr<const formula::Book> book_;
        std::shared_ptr<const formula::Constants> constants_;
        std::shared_ptr<const Aliases> aliases_;
        std::map<std::string, std::string> marks_;  ///< that were made
        std::shared_ptr<formula::Resolver> resolver_;
    };
    [[nodiscard]] Result<OfRun> of_run(const Library& library, const RunRow& run);

  private:
    /// What runs of one car, event and day share.
    struct Papers {
        std::shared_ptr<const formula::Book> book;
        std::shared_ptr<const formula::Constants> constants;
        std::shared_ptr<formula::Resolver> resolver;
        std::string limits, names;
    };
    [[nodiscard]] const Papers& papers_of(const RunRow& run);

    std::vector<formula::FormulaSet> sets_;
    std::vector<CarSheet> sheets_;
    std::shared_ptr<const Aliases> aliases_;
    std::map<std::string, Papers> papers_;
    std::map<TrackId, std::string> tracks_;  ///< marks
};

}  // namespace rendak
