#include "core/formula/program.h"

#include <algorithm>
#include <cstring>

#include "core/base/buffer.h"

namespace rendak::formula {

int Program::add_input() {
    kinds_.push_back(Register::input);
    values_.push_back(0);
    places_.push_back(inputs_++);
    return static_cast<int>(kinds_.size()) - 1;
}

int Program::add_constant(float value) {
    kinds_.push_back(Register::constant);
    values_.push_back(value);
    places_.push_back(-1);
    return static_cast<int>(kinds_.size()) - 1;
}

int Program::add_step(Kernel kernel, int a, int b, int c, int d) {
    kinds_.push_back(Register::scratch);
    values_.push_back(0);
    places_.push_back(-1);
    const int out = static_cast<int>(kinds_.size()) - 1;
    steps_.push_back({kernel, out, a, b, c, d, -1});
    return out;
}

int Program::add_table(const Table& table, int x, std::vector<double> xs, std::vector<double> ys) {
    Filled filled{table, std::move(xs), std::move(ys), {}};
    if (table.slopes != nullptr) filled.slopes = table.slopes(filled.xs, filled.ys);
    tables_.push_back(std::move(filled));
    const int out = add_step(nullptr, x);
    steps_.back().table = static_cast<int>(tables_.size()) - 1;
    return out;
}

void Program::Filled::fill(float* out, const float* x, std::size_t n) const {
    for (std::size_t i = 0; i < n; ++i)
        out[i] = static_cast<float>(table.value(static_cast<double>(x[i]), xs, ys, slopes));
}

bool Program::run(std::span<const float* const> inputs, std::span<float> out, const std::stop_token& stop) const {
    const std::size_t count = kinds_.size();
    // Scratch blocks are used again as soon as nobody reads them any more: few blocks stay in the cache.
    std::vector<std::size_t> last_read(count, 0);
    for (std::size_t s = 0; s < steps_.size(); ++s) {
        for (const int reg : {steps_[s].a, steps_[s].b, steps_[s].c, steps_[s].d}) {
            if (reg >= 0) last_read[static_cast<std::size_t>(reg)] = s;
        }
    }
    std::vector<std::size_t> block_of(count), free;
    std::size_t blocks = 0;
    const auto take = [&] {
        if (free.empty()) return blocks++;
        const std::size_t block = free.back();
        free.pop_back();
        return block;
    };
    for (std::size_t r = 0; r < count; ++r) {
        if (kinds_[r] == Register::constant) block_of[r] = blocks++;
    }
    for (std::size_t s = 0; s < steps_.size(); ++s) {
        const Step& step = steps_[s];
        block_of[static_cast<std::size_t>(step.out)] = take();
        for (const int reg : {step.a, step.b, step.c, step.d}) {
            if (reg < 0 || kinds_[static_cast<std::size_t>(reg)] != Register::scratch) continue;
            const auto r = static_cast<std::size_t>(reg);
            if (last_read[r] != s) continue;
            if (std::find(free.begin(), free.end(), block_of[r]) == free.end()) free.push_back(block_of[r]);
        }
    }
    // A line apart, so that blocks do not fall on the same lines of the cache.
    constexpr std::size_t stride = block_size + 16;
    Buffer<float> scratch(blocks * stride);
    std::vector<float*> place(count);
    for (std::size_t r = 0; r < count; ++r) {
        if (kinds_[r] == Register::input) continue;
        place[r] = scratch.data() + block_of[r] * stride;
        if (kinds_[r] == Register::constant) std::fill_n(place[r], block_size, values_[r]);
    }
    const auto result = static_cast<std::size_t>(result_);
    for (std::size_t from = 0; from < out.size(); from += block_size) {
        if (from % (256 * block_size) == 0 && stop.stop_requested()) return false;
        const std::size_t n = std::min(block_size, out.size() - from);
        const auto read = [&](int reg) -> const float* {
            if (reg < 0) return nullptr;
            const auto r = static_cast<std::size_t>(reg);
            return kinds_[r] == Register::input ? inputs[static_cast<std::size_t>(places_[r])] + from : place[r];
        };
        // The next blocks of the inputs travel from memory while this one is worked on.
        if (from + 2 * block_size <= out.size()) {
            for (const float* input : inputs) {
                for (std::size_t i = 0; i < block_size; i += 16) __builtin_prefetch(input + from + block_size + i);
            }
            for (std::size_t i = 0; i < block_size; i += 16) __builtin_prefetch(out.data() + from + block_size + i, 1);
        }
        for (const Step& step : steps_) {
            float* target = step.out == result_ ? out.data() + from : place[static_cast<std::size_t>(step.out)];
            if (step.table >= 0)
                tables_[static_cast<std::size_t>(step.table)].fill(target, read(step.a), n);
            else
                step.kernel(target, read(step.a), read(step.b), read(step.c), read(step.d), n);
        }
        if (kinds_[result] != Register::scratch) std::memcpy(out.data() + from, read(result_), n * sizeof(float));
    }
    return true;
}

}  // namespace rendak::formula
