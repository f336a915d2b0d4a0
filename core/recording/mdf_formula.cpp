#include "core/recording/mdf_formula.h"

#include <charconv>
#include <cmath>
#include <numbers>
#include <string>

#include "core/base/text.h"

namespace rendak::mdf {
namespace {

using Function = std::function<double(double)>;

class Parser {
  public:
    explicit Parser(std::string_view text) : text_(lower(text)), rest_(text_) {}

    std::optional<Function> read() {
        Function out = sum(0);
        blanks();
        if (!good_ || !rest_.empty()) return std::nullopt;
        return out;
    }

  private:
    /// Real conversions are a line; what is nested deeper is made to break its reader.
    static constexpr int deepest = 60;

    void blanks() {
        while (!rest_.empty() && (rest_.front() == ' ' || rest_.front() == '\t')) rest_.remove_prefix(1);
    }
    bool take(std::string_view word) {
        blanks();
        if (!rest_.starts_with(word)) return false;
        rest_.remove_prefix(word.size());
        return true;
    }
    Function nothing() {
        good_ = false;
        return [](double) { return std::nan(""); };
    }

    Function sum(int depth) {
        Function left = product(depth);
        while (good_) {
            if (take("+"))
                left = [left, right = product(depth)](double x) { return left(x) + right(x); };
            else if (take("-"))
                left = [left, right = product(depth)](double x) { return left(x) - right(x); };
            else
                break;
        }
        return left;
    }
    Function product(int depth) {
        Function left = power(depth);
        while (good_) {
            if (rest_.size() > 1 && rest_[0] == '*' && rest_[1] == '*') break;
            if (take("*"))
                left = [left, right = power(depth)](double x) { return left(x) * right(x); };
            else if (take("/"))
                left = [left, right = power(depth)](double x) { return left(x) / right(x); };
            else
                break;
        }
        return left;
    }
    Function power(int depth) {
        if (depth > deepest) return nothing();
        if (take("-")) return [inner = power(depth + 1)](double x) { return -inner(x); };
        if (take("+")) return power(depth + 1);
        Function base = factor(depth);
        if (take("^") || take("**"))
            return [base, exponent = power(depth + 1)](double x) { return std::pow(base(x), exponent(x)); };
        return base;
    }
    Function factor(int depth) {
        if (take("(")) {
            Function inner = sum(depth + 1);
            return take(")") ? inner : nothing();
        }
        blanks();
        if (!rest_.empty() && ((rest_.front() >= '0' && rest_.front() <= '9') || rest_.front() == '.')) {
            double value = 0;
            const auto [end, error] = std::from_chars(rest_.data(), rest_.data() + rest_.size(), value);
            if (error != std::errc()) return nothing();
            rest_.remove_prefix(static_cast<std::size_t>(end - rest_.data()));
            return [value](double) { return value; };
        }
        std::size_t size = 0;
        while (size < rest_.size() &&
               ((rest_[size] >= 'a' && rest_[size] <= 'z') || (rest_[size] >= '0' && rest_[size] <= '9')))
            ++size;
        const std::string word(rest_.substr(0, size));
        rest_.remove_prefix(size);
        if (word == "x" || word == "x1") return [](double x) { return x; };
        if (word == "pi") return [](double) { return std::numbers::pi; };
        return call(word, depth);
    }
    Function call(const std::string& name, int depth) {
        struct Known {
            const char* name;
            double (*function)(double);
        };
        static constexpr Known known[] = {
            {"sqrt", [](double x) { return std::sqrt(x); }},   {"abs", [](double x) { return std::abs(x); }},
            {"exp", [](double x) { return std::exp(x); }},     {"log", [](double x) { return std::log(x); }},
            {"ln", [](double x) { return std::log(x); }},      {"log10", [](double x) { return std::log10(x); }},
            {"sin", [](double x) { return std::sin(x); }},     {"cos", [](double x) { return std::cos(x); }},
            {"tan", [](double x) { return std::tan(x); }},     {"asin", [](double x) { return std::asin(x); }},
            {"acos", [](double x) { return std::acos(x); }},   {"atan", [](double x) { return std::atan(x); }},
            {"floor", [](double x) { return std::floor(x); }}, {"ceil", [](double x) { return std::ceil(x); }}};
        if (name.empty() || !take("(")) return nothing();
        Function first = sum(depth + 1);
        if (name == "pow") {
            if (!take(",")) return nothing();
            Function second = sum(depth + 1);
            if (!take(")")) return nothing();
            return [first, second](double x) { return std::pow(first(x), second(x)); };
        }
        if (!take(")")) return nothing();
        for (const Known& one : known) {
            if (name == one.name) return [first, function = one.function](double x) { return function(first(x)); };
        }
        return nothing();
    }

    std::string text_;
    std::string_view rest_;
    bool good_ = true;
};

}  // namespace

std::optional<std::function<double(double)>> formula_of(std::string_view text) {
    if (text.size() > 2000) return std::nullopt;
    return Parser(text).read();
}

}  // namespace rendak::mdf
