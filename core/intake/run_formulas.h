#pragma once

#include <memory>
#include <mutex>

#include "core/formula/book.h"
#include "core/formula/evaluate.h"
#include "core/formula/kept_steps.h"
#include "core/laps/driver_activity.h"
#include "core/library/library.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// What formulas of a run depend on beside its recording.
struct FormulaInputs {
    formula::Book book;
    formula::Constants constants;
    Aliases aliases;
};

/// The user's formula sets, read from the library. A set that cannot be read is left out (`problems` says why).
[[nodiscard]] Result<std::vector<formula::FormulaSet>> formula_sets(const Library& library,
                                                                    std::vector<Error>* problems = nullptr);

/// The formulas of one opened run: each is checked and computed when it is asked for first, and kept. Thread-safe; its
/// channels live as long as it does.
class RunFormulas {
  public:
    /// `former`, when given, hands over what it computed and is still true.
    RunFormulas(FormulaInputs inputs, Recording logged, std::vector<Lap> laps, std::shared_ptr<const Track> track,
                std::shared_ptr<const Path> path, const std::shared_ptr<const PedalScales>& scales = nullptr,
                RunFormulas* former = nullptr);

    [[nodiscard]] const FormulaInputs& inputs() const { return inputs_; }
    [[nodiscard]] bool has(std::string_view name) const { return inputs_.book.find(std::string(name)) != nullptr; }
    /// Result of a formula, or nullptr: there is none of that name, or this run cannot have it.
    /// A computation that is stopped is not kept: whoever asks next begins it anew.
    [[nodiscard]] const Channel* find(std::string_view name, const std::stop_token& stop = {});
    /// Whether find() answers at once.
    [[nodiscard]] bool ready(std::string_view name) const;
    /// Why this run cannot have a formula, in a sentence; "" when it can, or when nobody has asked for it yet.
    [[nodiscard]] std::string why_not(std::string_view name) const;
    /// How many formulas were computed since this was made (not handed over).
    [[nodiscard]] std::size_t computed() const;

    /// Checks a draft against this run; `as` is the name of the formula it is to replace.
    [[nodiscard]] formula::Checked<formula::CheckedFormula> check(const std::string& text, const std::string& unit,
                                                                  const std::string& as = {});
    /// Computes a draft, over a range or all.
    [[nodiscard]] formula::Checked<Channel> evaluate(const formula::CheckedFormula& draft,
                                                     const formula::Evaluation& options = {},
                                                     const std::stop_token& stop = {});
    /// The same over all, block by block (formula::evaluate_blocks()).
    [[nodiscard]] formula::Checked<std::size_t> evaluate_blocks(const formula::CheckedFormula& draft,
                                                                std::size_t most_samples,
                                                                const formula::TakeBlock& take,
                                                                const std::stop_token& stop = {});

  private:
    struct Entry {
        std::shared_ptr<const Channel> channel;
        std::string problem;
        std::string fingerprint;
    };
    [[nodiscard]] formula::RunView view(const formula::CheckedFormula& formula, const std::stop_token& stop);
    [[nodiscard]] std::vector<float> driver_flags(std::string_view what, const SampleClock& clock, std::size_t from,
                                                  std::size_t to);
    [[nodiscard]] std::vector<float> whole_driver_flags(std::string_view what);
    /// What a formula may ask of the track; fills the lines that it asks for first.
    void give_track_values(const formula::CheckedFormula& formula, formula::RunView& out);
    [[nodiscard]] Result<std::vector<double>> quickest_line_of_run(const std::stop_token& stop) const;

    FormulaInputs inputs_;
    Recording logged_;
    std::vector<Lap> laps_;
    std::shared_ptr<const Track> track_;
    std::shared_ptr<const Path> path_;
    DriverActivity driver_;
    formula::Resolver resolver_;
    std::vector<std::shared_ptr<const LapMap>> maps_;  ///< of laps_, filled when a formula asks for places
    std::optional<std::vector<double>> ideal_line_m_;
    std::optional<Result<std::vector<double>>> quickest_line_m_;
    std::recursive_mutex work_;         ///< held while checking and computing
    mutable std::mutex results_mutex_;  ///< guards entries_, former_ and driver_flags_, never held for long
    std::map<std::string, Entry, std::less<>> entries_;
    std::map<std::string, Entry, std::less<>> former_;  ///< handed over, not yet known to be true still
    std::map<std::string, std::vector<float>, std::less<>> driver_flags_;  ///< on the driver's own clock, all of it
    formula::KeptSteps steps_;
    std::size_t computed_ = 0;
};

}  // namespace rendak
