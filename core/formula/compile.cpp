#include "core/formula/evaluator.h"

namespace rendak::formula {

bool Evaluator::compute(int i, Part part, std::span<float> out) {
    if (stopped(i)) return false;
    Program program;
    std::vector<const float*> inputs;
    std::map<std::string, int> by_name;
    const int result = compile(i, part, program, inputs, by_name);
    if (result < 0) return false;
    program.set_result(result);
    return program.run(inputs, out, run_.stop) || wrong(i, "Cancelled.");
}

std::vector<float> Evaluator::array(int i, Part part) {
    std::vector<float> out(part.size());
    if (!compute(i, part, out)) out.clear();
    return out;
}

int Evaluator::add_array(std::vector<float> values, Program& program, std::vector<const float*>& inputs) {
    arrays_.push_back(std::move(values));
    inputs.push_back(arrays_.back().data());
    return program.add_input();
}

int Evaluator::compile(int i, Part part, Program& program, std::vector<const float*>& inputs,
                       std::map<std::string, int>& by_name) {
    if (problem_) return -1;
    if (const auto value = formula_.constants[index(i)]) return program.add_constant(static_cast<float>(*value));
    const auto below = [&](int child) { return compile(child, part, program, inputs, by_name); };
    const Node& at = node(i);
    switch (at.kind) {
        case Node::Kind::name:
            return leaf(i, part, program, inputs, by_name);
        case Node::Kind::unary: {
            const int a = below(at.children[0]);
            return a < 0 ? -1 : program.add_step(kernel_of(at.op), a);
        }
        case Node::Kind::binary:
            return binary(i, program, below);
        case Node::Kind::conditional:
            return choose(at.children[1], at.children[0], at.children[2], program, below);
        case Node::Kind::call:
            break;
        default:
            return -1;
    }
    const FunctionRow& function = *formula_.functions[index(i)]->row;
    if (function.over_time == nullptr) return pointwise(i, function, program, below);
    if (stopped(i)) return -1;
    CallSamples call(*this, i, part);
    auto values = function.over_time(call);
    return problem_ ? -1 : add_array(std::move(values), program, inputs);
}

int Evaluator::pointwise(int i, const FunctionRow& function, Program& program, const Below& below) {
    const auto& given = formula_.arguments[index(i)];
    if (function.takes_first) return below(given[0]);
    if (function.is_choice) return choose(given[0], given[1], given[2], program, below);
    if (function.table.value != nullptr) {
        const auto listed = [&](int list) {
            std::vector<double> values;
            for (const int item : node(list).children) values.push_back(*formula_.constants[index(item)]);
            return values;
        };
        const int x = below(given[0]);
        if (x < 0) return -1;
        return program.add_table(function.table, x, listed(given[1]), listed(given.back()));
    }
    const Kernel kernel = function.pointwise.kernel;
    if (kernel == kernels::square_root) {
        if (const int sum = squares(given[0], program, below, fused::root_square_sum); sum != not_so) return sum;
    }
    std::vector<int> operands;
    for (const int child : given) {
        operands.push_back(child < 0 ? program.add_constant(0) : below(child));
        if (operands.back() < 0) return -1;
    }
    const bool in_pairs = formula_.functions[index(i)]->parameters.back().repeated;
    if (!in_pairs) {
        operands.resize(4, -1);
        return program.add_step(kernel, operands[0], operands[1], operands[2], operands[3]);
    }
    int result = operands[0];
    for (std::size_t k = 1; k < operands.size(); ++k) result = program.add_step(kernel, result, operands[k]);
    return result;
}

bool Evaluator::is_binary(int i, Op op) const {
    return node(i).kind == Node::Kind::binary && node(i).op == op && !formula_.constants[index(i)];
}

int Evaluator::squared(int i) const {
    if (is_binary(i, Op::power) && formula_.constants[index(node(i).children[1])] == 2.0) return node(i).children[0];
    if (!is_binary(i, Op::multiply)) return -1;
    const Node &a = formula_.syntax.child(node(i), 0), &b = formula_.syntax.child(node(i), 1);
    const bool same_name = a.kind == Node::Kind::name && b.kind == Node::Kind::name && a.text == b.text;
    return same_name ? node(i).children[0] : -1;
}

int Evaluator::squares(int i, Program& program, const Below& below, Kernel kernel) {
    if (!is_binary(i, Op::add)) return not_so;
    const int a = squared(node(i).children[0]), b = squared(node(i).children[1]);
    if (a < 0 || b < 0) return not_so;
    const int x = below(a);
    const int y = x < 0 ? -1 : below(b);
    return y < 0 ? -1 : program.add_step(kernel, x, y);
}

int Evaluator::binary(int i, Program& program, const Below& below) {
    const Node& at = node(i);
    if (at.op == Op::add) {
        if (const int sum = squares(i, program, below, fused::square_sum); sum != not_so) return sum;
        // a b + c in one pass.
        for (std::size_t side = 0; side < 2; ++side) {
            const int factor = at.children[side];
            if (!is_binary(factor, Op::multiply) || squared(factor) >= 0) continue;
            const int a = below(node(factor).children[0]);
            const int b = a < 0 ? -1 : below(node(factor).children[1]);
            const int c = b < 0 ? -1 : below(at.children[1 - side]);
            return c < 0 ? -1 : program.add_step(fused::multiply_add, a, b, c);
        }
    }
    if (const int root = squared(i); root >= 0) {
        const int a = below(root);
        return a < 0 ? -1 : program.add_step(fused::square, a);
    }
    if (at.op == Op::power) {
        const auto exponent = formula_.constants[index(at.children[1])];
        const int a = below(at.children[0]);
        if (a < 0) return -1;
        if (exponent == 0.5) return program.add_step(kernels::square_root, a);
        if (exponent == 1.0) return a;
        if (exponent == 3.0) return program.add_step(kernel_of(Op::multiply), program.add_step(fused::square, a), a);
        const int b = below(at.children[1]);
        return b < 0 ? -1 : program.add_step(kernel_of(Op::power), a, b);
    }
    const int a = below(at.children[0]);
    const int b = a < 0 ? -1 : below(at.children[1]);
    return b < 0 ? -1 : program.add_step(kernel_of(at.op), a, b);
}

int Evaluator::choose(int condition, int yes, int no, Program& program, const Below& below) {
    const Node& test = node(condition);
    const bool compares = test.kind == Node::Kind::binary && !formula_.constants[index(condition)];
    const Op op = test.op;
    const bool forward = compares && (op == Op::less || op == Op::less_equal);
    const bool backward = compares && (op == Op::greater || op == Op::greater_equal);
    if (!forward && !backward) {
        const int c = below(condition);
        const int a = c < 0 ? -1 : below(yes);
        const int b = a < 0 ? -1 : below(no);
        return b < 0 ? -1 : program.add_step(fused::choose, c, a, b);
    }
    const int low = below(test.children[forward ? 0 : 1]);
    const int high = low < 0 ? -1 : below(test.children[forward ? 1 : 0]);
    const int a = high < 0 ? -1 : below(yes);
    const int b = a < 0 ? -1 : below(no);
    const bool strict = op == Op::less || op == Op::greater;
    return b < 0 ? -1 : program.add_step(strict ? fused::choose_less : fused::choose_less_equal, low, high, a, b);
}
}  // namespace rendak::formula
