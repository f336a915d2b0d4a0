#pragma once

#include <map>

#include "core/formula/check.h"
#include "core/formula/formula_set.h"
#include "core/library/rows.h"
#include "core/recording/recording.h"
#include "core/signal/quantity.h"

namespace rendak::formula {

/// The formulas that apply to a run, by name: those of its event win over those of its car, these over those for
/// everything, and all of them over the starter set.
struct Book {
    struct Entry {
        Formula formula;
        std::string set;
    };
    std::map<std::string, Entry> entries;

    [[nodiscard]] const Formula* find(const std::string& name) const;
};
[[nodiscard]] Book book_for(const std::vector<FormulaSet>& sets, const std::string& car, const std::string& event);

/// A constant of a car sheet as formulas see it.
struct Constant {
    std::string label;  ///< as the sheet calls it
    double value = 0;   ///< SI
    Type type;
};
/// The constants that hold for a car on a day: of the sheet with the latest validity not after it.
struct Constants {
    std::string sheet;                              ///< "27, 2026"; empty when there is no sheet
    std::map<std::string, Constant> values;         ///< by plain name, without "car."
    std::map<std::string, std::string> unreadable;  ///< plain name -> why the value or unit cannot be read
    std::string stale;  ///< a sentence when only a sheet of a later day or none of this season was found
};
/// `date` as 2026-05-16; empty: the newest sheet.
[[nodiscard]] Constants constants_for(const std::vector<CarSheet>& sheets, const std::string& car,
                                      const std::string& date);

/// Knows what names mean: checks formulas against each other, a car's constants, the table of quantities and, when
/// given, a run's channels. Each formula is checked once.
class Resolver {
  public:
    /// `recording` may be null: then every known quantity counts as there. All arguments must outlive the resolver.
    Resolver(const Book& book, const Constants& constants, const Aliases& aliases, const Recording* recording);

    /// Result of checking a formula of the book.
    [[nodiscard]] const Checked<CheckedFormula>& checked(const std::string& name);
    /// Names for checking a formula that is not in the book (a draft called `as`, which takes the place of that entry).
    [[nodiscard]] Names names(const std::string& as = {});
    /// 64 hex digits that change when anything changes that a formula's values depend on, apart from the recording.
    [[nodiscard]] std::string fingerprint(const std::string& name);
    [[nodiscard]] std::string fingerprint(const CheckedFormula& formula, const std::string& text, double rate_hz);

  private:
    tl::expected<Named, NotNamed> find(const std::string& name, const std::string& as);

    const Book& book_;
    const Constants& constants_;
    const Aliases& aliases_;
    const Recording* recording_;
    std::map<std::string, Checked<CheckedFormula>> checked_;
    std::map<std::string, std::string> fingerprints_;
    std::map<std::string, std::size_t> depth_;  ///< how many formulas a checked one builds on, one over the other
    std::vector<std::size_t> depths_;           ///< of those being checked
    std::vector<std::string> under_way_;        ///< formulas being checked, outermost first: a circle shows here
};

/// For lists: which formulas of a book use which, by name.
[[nodiscard]] std::map<std::string, std::vector<std::string>> users_of(const Book& book);

}  // namespace rendak::formula
