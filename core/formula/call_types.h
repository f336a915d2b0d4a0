#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/formula/functions.h"
#include "core/formula/type.h"

namespace rendak::formula {

class Checker;

/// One call with its arguments checked against their shapes, as the rule of a function sees it that gives the type of
/// the result. `k` counts the parameters; repeated ones go on behind the last. What returns bool notes a problem, with
/// its place in the text, when it returns false.
class CallTypes {
  public:
    CallTypes(Checker& checker, int call, const Function& function)
        : checker_(checker), call_(call), function_(function) {}

    [[nodiscard]] const std::string& name() const { return function_.name; }
    [[nodiscard]] std::size_t count() const;
    [[nodiscard]] bool has(std::size_t k) const;
    [[nodiscard]] const Type& type(std::size_t k) const;
    /// The value of a constant argument.
    [[nodiscard]] double constant(std::size_t k, double otherwise = 0) const;
    /// The values of a list.
    [[nodiscard]] std::vector<double> list(std::size_t k) const;
    [[nodiscard]] bool is_word(std::size_t k) const;  ///< lap or run
    /// "a speed (wheel_speed_fl)".
    [[nodiscard]] std::string said(std::size_t k) const;

    Type& out();

    bool wrong(std::size_t k, std::string sentence);
    bool wrong_item(std::size_t k, std::size_t item, std::string sentence);
    bool wrong_call(std::string sentence);
    /// Same dimension; `alike`: and both temperatures, or both differences of them.
    bool agree(std::size_t a, std::size_t b, const std::string& doing);
    bool agree_wholly(std::size_t a, std::size_t b, const std::string& doing);
    bool positive(std::size_t k);
    bool whole_number(std::size_t k, int low, int high);
    /// The result is argument a or b, by a condition.
    bool choice(std::size_t condition, std::size_t a, std::size_t b);

  private:
    [[nodiscard]] int at(std::size_t k) const;
    Checker& checker_;
    int call_;
    const Function& function_;
};

/// Rules that several functions share.
namespace types {
bool plain(CallTypes& call);       ///< a plain number
bool condition(CallTypes& call);   ///< true or false
bool as_first(CallTypes& call);    ///< that of the first argument
bool difference(CallTypes& call);  ///< the same, and no temperature but a difference
bool angle(CallTypes& call);       ///< rad
bool all_alike(CallTypes& call);   ///< that of the first; all others are held against it
}  // namespace types

}  // namespace rendak::formula
