#include <array>

#include "core/base/text.h"
#include "core/formula/syntax.h"

namespace rendak::formula {
namespace {

/// How tightly a node binds; a child that binds less tightly than its place asks for gets brackets.
int level(const Node& node) {
    if (node.kind == Node::Kind::conditional) return 0;
    if (node.kind == Node::Kind::number && node.number < 0) return 6;  // a minus sign stands before it
    if (node.kind == Node::Kind::unary) return node.op == Op::logical_not ? 3 : 6;
    if (node.kind != Node::Kind::binary) return 8;
    switch (node.op) {
        case Op::logical_or:
            return 1;
        case Op::logical_and:
            return 2;
        case Op::add:
        case Op::subtract:
            return 5;
        case Op::multiply:
        case Op::divide:
            return 6;
        case Op::power:
            return 7;
        default:
            return 4;
    }
}

std::string_view mark(Op op) {
    constexpr std::array<std::string_view, 15> marks{"-",    "not ", " + ",  " - ",  " * ",  " / ",   " ** ", " < ",
                                                     " <= ", " > ",  " >= ", " == ", " != ", " and ", " or "};
    return marks[static_cast<std::size_t>(op)];
}

std::string text_of(const Syntax& syntax, int index);

std::string child_text(const Syntax& syntax, int index, int asked) {
    const std::string text = text_of(syntax, index);
    return level(syntax.at(index)) < asked ? "(" + text + ")" : text;
}

std::string text_of(const Syntax& syntax, int index) {
    const Node& node = syntax.at(index);
    switch (node.kind) {
        case Node::Kind::number:
            return exact_number(node.number) + (node.text.empty() ? "" : " " + node.text);
        case Node::Kind::name:
            return node.text;
        case Node::Kind::call:
        case Node::Kind::list: {
            std::string out = node.kind == Node::Kind::list ? "[" : node.text + "(";
            for (std::size_t i = 0; i < node.children.size(); ++i) {
                if (i > 0) out += ", ";
                if (node.kind == Node::Kind::call && !node.names[i].empty()) out += node.names[i] + "=";
                out += text_of(syntax, node.children[i]);
            }
            return out + (node.kind == Node::Kind::list ? "]" : ")");
        }
        case Node::Kind::unary:
            return std::string(mark(node.op)) +
                   child_text(syntax, node.children[0], node.op == Op::logical_not ? 3 : 7);
        case Node::Kind::binary: {
            const int own = level(node);
            // Sums and products lean left, powers right, comparisons stand alone.
            const int left = node.op == Op::power ? 8 : own == 4 ? 5 : own;
            const int right = node.op == Op::power ? 7 : own + 1;
            return child_text(syntax, node.children[0], left) + std::string(mark(node.op)) +
                   child_text(syntax, node.children[1], right);
        }
        case Node::Kind::conditional:
            return child_text(syntax, node.children[0], 1) + " if " + child_text(syntax, node.children[1], 1) +
                   " else " + text_of(syntax, node.children[2]);
    }
    return {};
}

bool same_at(const Syntax& a, int i, const Syntax& b, int k) {
    const Node &x = a.at(i), &y = b.at(k);
    if (x.kind != y.kind || x.number != y.number || x.text != y.text || x.names != y.names ||
        x.children.size() != y.children.size())
        return false;
    const bool has_op = x.kind == Node::Kind::unary || x.kind == Node::Kind::binary;
    if (has_op && x.op != y.op) return false;
    for (std::size_t child = 0; child < x.children.size(); ++child) {
        if (!same_at(a, x.children[child], b, y.children[child])) return false;
    }
    return true;
}

}  // namespace

std::string print(const Syntax& syntax) {
    return text_of(syntax, syntax.root);
}

bool same(const Syntax& a, const Syntax& b) {
    return same_at(a, a.root, b, b.root);
}

}  // namespace rendak::formula
