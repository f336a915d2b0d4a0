#include <algorithm>
#include <array>
#include <optional>

#include "core/formula/lexer.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

constexpr std::array<std::string_view, 5> keywords{"if", "else", "and", "or", "not"};

/// Recursive descent; each member reads one level of the grammar, loosest first. The first problem ends it.
class Parser {
  public:
    explicit Parser(std::vector<Token> tokens) : tokens_(std::move(tokens)) {}

    Checked<Syntax> read() {
        if (now().kind == Token::Kind::end) return tl::unexpected(Problem{0, now().to, "There is no formula yet."});
        syntax_.root = expression();
        if (!problem_ && now().kind != Token::Kind::end) unexpected_here();
        if (problem_) return tl::unexpected(*problem_);
        return std::move(syntax_);
    }

  private:
    const Token& now() const { return tokens_[at_]; }
    bool is_mark(std::string_view text) const { return now().kind == Token::Kind::mark && now().text == text; }
    bool is_word(std::string_view text) const { return now().kind == Token::Kind::name && now().text == text; }
    bool take_mark(std::string_view text) { return is_mark(text) && (++at_, true); }
    bool take_word(std::string_view text) { return is_word(text) && (++at_, true); }

    int wrong(std::size_t from, std::size_t to, std::string sentence) {
        if (!problem_) problem_ = Problem{from, to, std::move(sentence)};
        at_ = tokens_.size() - 1;  // nothing more is read
        return -1;
    }
    int unexpected_here() {
        const Token& token = now();
        if (token.kind == Token::Kind::end)
            return wrong(token.from, token.to, "The formula ends here, but a value is still to come.");
        const bool word = token.kind == Token::Kind::name;
        const bool keyword = word && std::find(keywords.begin(), keywords.end(), token.text) != keywords.end();
        if (is_mark("=")) return wrong(token.from, token.to, "A single = has no meaning here. To compare, write ==.");
        if (keyword && token.text == "else")
            return wrong(token.from, token.to,
                         "This \"else\" has no \"if\" before it: write value if condition else other.");
        if ((word && !keyword) || token.kind == Token::Kind::number)
            return wrong(token.from, token.to,
                         "Two values stand side by side here. Put an operator such as * or + between them.");
        return wrong(token.from, token.to, "\"" + token.text + "\" was not expected here.");
    }
    int add(Node node) {
        if (syntax_.nodes.size() >= most_nodes)
            return wrong(node.from, node.to, "The formula has too many parts. Split it into several formulas.");
        syntax_.nodes.push_back(std::move(node));
        return static_cast<int>(syntax_.nodes.size()) - 1;
    }
    int joined(Op op, int left, int right) {
        if (left < 0 || right < 0) return -1;
        Node node;
        node.kind = Node::Kind::binary;
        node.op = op;
        node.children = {left, right};
        node.from = syntax_.at(left).from;
        node.to = syntax_.at(right).to;
        return add(std::move(node));
    }
    struct Deeper {
        explicit Deeper(int& depth) : depth_(depth) { ++depth_; }
        ~Deeper() { --depth_; }
        Deeper(const Deeper&) = delete;
        Deeper& operator=(const Deeper&) = delete;
        int& depth_;
    };
    bool too_deep() {
        if (depth_ <= deepest) return false;
        wrong(now().from, now().to,
              "The formula is nested more than " + std::to_string(deepest) +
                  " levels deep. Give an inner part a name of its own.");
        return true;
    }

    int expression() {
        const Deeper deeper(depth_);
        if (too_deep()) return -1;
        const int value = either();
        if (value < 0 || !take_word("if")) return value;
        const int condition = either();
        if (condition < 0) return -1;
        if (!take_word("else"))
            return wrong(now().from, now().to, "An \"if\" needs an \"else\": write value if condition else other.");
        const int other = expression();
        if (other < 0) return -1;
        Node node;
        node.kind = Node::Kind::conditional;
        node.children = {value, condition, other};
        node.from = syntax_.at(value).from;
        node.to = syntax_.at(other).to;
        return add(std::move(node));
    }
    int either() {
        int left = both();
        while (left >= 0 && take_word("or")) left = joined(Op::logical_or, left, both());
        return left;
    }
    int both() {
        int left = negation();
        while (left >= 0 && take_word("and")) left = joined(Op::logical_and, left, negation());
        return left;
    }
    int unary(Op op, std::size_t from, int child) {
        if (child < 0) return -1;
        Node node;
        node.kind = Node::Kind::unary;
        node.op = op;
        node.children = {child};
        node.from = from;
        node.to = syntax_.at(child).to;
        return add(std::move(node));
    }
    int negation() {
        const Deeper deeper(depth_);
        if (too_deep()) return -1;
        const std::size_t from = now().from;
        if (take_word("not")) return unary(Op::logical_not, from, negation());
        return comparison();
    }
    std::optional<Op> take_comparison() {
        constexpr std::array<std::pair<std::string_view, Op>, 6> all{{{"<", Op::less},
                                                                      {"<=", Op::less_equal},
                                                                      {">", Op::greater},
                                                                      {">=", Op::greater_equal},
                                                                      {"==", Op::equal},
                                                                      {"!=", Op::not_equal}}};
        for (const auto& [mark, op] : all) {
            if (take_mark(mark)) return op;
        }
        return std::nullopt;
    }
    /// 20 < x < 40 means 20 < x and x < 40.
    int comparison() {
        int left = sum();
        int whole = -1;
        while (left >= 0) {
            const auto op = take_comparison();
            if (!op) break;
            const int right = sum();
            const int one = joined(*op, left, right);
            if (one < 0) return -1;
            whole = whole < 0 ? one : joined(Op::logical_and, whole, one);
            left = right;
        }
        return whole < 0 || left < 0 ? left : whole;
    }
    int sum() {
        int left = product();
        while (left >= 0) {
            if (take_mark("+"))
                left = joined(Op::add, left, product());
            else if (take_mark("-"))
                left = joined(Op::subtract, left, product());
            else
                break;
        }
        return left;
    }
    int product() {
        int left = signed_value();
        while (left >= 0) {
            if (take_mark("*"))
                left = joined(Op::multiply, left, signed_value());
            else if (take_mark("/"))
                left = joined(Op::divide, left, signed_value());
            else
                break;
        }
        return left;
    }
    int signed_value() {
        const Deeper deeper(depth_);
        if (too_deep()) return -1;
        const std::size_t from = now().from;
        if (take_mark("+")) return signed_value();
        if (!take_mark("-")) return power();
        // -5 °C is five degrees below zero, not the negative of 278.15 K.
        const Token& next = now();
        if (next.kind == Token::Kind::number) {
            const auto unit = parse_compound_unit(next.text);
            if (unit && unit->offset != 0) return number(-1, from);
        }
        return unary(Op::negate, from, signed_value());
    }
    int power() {
        int base = primary();
        while (base >= 0) {
            const Token mark = now();
            if (take_mark("²") || take_mark("³")) {
                Node exponent;
                exponent.number = mark.text == "²" ? 2 : 3;
                exponent.from = mark.from;
                exponent.to = mark.to;
                base = joined(Op::power, base, add(std::move(exponent)));
            } else if (take_mark("**")) {
                return joined(Op::power, base, signed_value());
            } else {
                break;
            }
        }
        return base;
    }
    int number(double sign, std::size_t from) {
        Node node;
        node.number = sign * now().number;
        node.text = now().text;
        node.from = from;
        node.to = now().to;
        ++at_;
        return add(std::move(node));
    }
    int primary() {
        const Token& token = now();
        if (token.kind == Token::Kind::number) return number(1, token.from);
        if (take_mark("(")) {
            const int inside = expression();
            if (inside < 0) return -1;
            if (!take_mark(")"))
                return now().kind == Token::Kind::end ? wrong(token.from, token.to, "This bracket is never closed.")
                                                      : unexpected_here();
            return inside;
        }
        if (token.kind == Token::Kind::name &&
            std::find(keywords.begin(), keywords.end(), token.text) == keywords.end())
            return named();
        return unexpected_here();
    }
    int named() {
        Node node;
        node.kind = Node::Kind::name;
        node.text = now().text;
        node.from = now().from;
        node.to = now().to;
        ++at_;
        while (is_mark(".")) {
            ++at_;
            if (now().kind != Token::Kind::name)
                return wrong(now().from, now().to, "A name must follow the dot, as in car.mass.");
            node.text += '.' + now().text;
            node.to = now().to;
            ++at_;
        }
        if (!is_mark("(")) return add(std::move(node));
        const Token open = now();
        ++at_;
        node.kind = Node::Kind::call;
        while (!is_mark(")")) {
            std::string name;
            if (now().kind == Token::Kind::name && tokens_[at_ + 1].kind == Token::Kind::mark &&
                tokens_[at_ + 1].text == "=") {
                name = now().text;
                at_ += 2;
            }
            const int argument = is_mark("[") ? list() : expression();
            if (argument < 0) {
                if (problem_ && problem_->sentence.starts_with("The formula ends here"))
                    problem_ = Problem{open.from, open.to, "The bracket of " + node.text + "( is never closed."};
                return -1;
            }
            node.children.push_back(argument);
            node.names.push_back(std::move(name));
            if (take_mark(",")) continue;
            if (is_mark(")")) break;
            if (now().kind == Token::Kind::end)
                return wrong(open.from, open.to, "The bracket of " + node.text + "( is never closed.");
            return unexpected_here();
        }
        node.to = now().to;
        ++at_;
        return add(std::move(node));
    }
    int list() {
        Node node;
        node.kind = Node::Kind::list;
        node.from = now().from;
        const Token open = now();
        ++at_;
        while (!is_mark("]")) {
            const int item = expression();
            if (item < 0) return -1;
            node.children.push_back(item);
            if (take_mark(",")) continue;
            if (is_mark("]")) break;
            if (now().kind == Token::Kind::end) return wrong(open.from, open.to, "This list is never closed with ].");
            return unexpected_here();
        }
        node.to = now().to;
        ++at_;
        return add(std::move(node));
    }

    std::vector<Token> tokens_;
    std::size_t at_ = 0;
    int depth_ = 0;
    Syntax syntax_;
    std::optional<Problem> problem_;
};

}  // namespace

Checked<Syntax> parse(std::string_view text) {
    auto tokens = tokens_of(text);
    if (!tokens) return tl::unexpected(tokens.error());
    return Parser(std::move(*tokens)).read();
}

bool is_plain_name(std::string_view text) {
    const auto letter = [](char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; };
    return !text.empty() && text.size() <= 60 && letter(text[0]) &&
           std::all_of(text.begin(), text.end(), [&](char c) { return letter(c) || (c >= '0' && c <= '9'); }) &&
           std::find(keywords.begin(), keywords.end(), text) == keywords.end();
}

std::string plain_name(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const bool digit = c >= '0' && c <= '9';
        if ((c >= 'a' && c <= 'z') || digit)
            out += out.empty() && digit ? std::string("_") + c : std::string(1, c);
        else if (c >= 'A' && c <= 'Z')
            out += static_cast<char>(c - 'A' + 'a');
        else if (!out.empty() && out.back() != '_')
            out += '_';
    }
    while (!out.empty() && out.back() == '_') out.pop_back();
    return out;
}

}  // namespace rendak::formula
