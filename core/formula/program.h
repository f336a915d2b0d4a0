#pragma once

#include <span>
#include <stop_token>
#include <vector>

#include "core/formula/functions.h"
#include "core/formula/kernels.h"

namespace rendak::formula {

/// The part of a formula that works sample by sample: a list of kernels over blocks. Registers are the inputs first,
/// then constants, then blocks of scratch memory.
class Program {
  public:
    /// Register of the i-th input array.
    int add_input();
    int add_constant(float value);
    /// Register of the result; the kernel is run after all those added before.
    int add_step(Kernel kernel, int a, int b = -1, int c = -1, int d = -1);
    /// The table steps keep their points in double.
    int add_table(const Table& table, int x, std::vector<double> xs, std::vector<double> ys);
    void set_result(int reg) { result_ = reg; }

    [[nodiscard]] int inputs() const { return inputs_; }
    /// Fills `out`; each input has as many samples. False when it was stopped.
    [[nodiscard]] bool run(std::span<const float* const> inputs, std::span<float> out,
                           const std::stop_token& stop = {}) const;

  private:
    struct Step {
        Kernel kernel = nullptr;
        int out = 0, a = -1, b = -1, c = -1, d = -1;
        int table = -1;
    };
    struct Filled {
        Table table;
        std::vector<double> xs, ys, slopes;
        void fill(float* out, const float* x, std::size_t n) const;
    };
    enum class Register { input, constant, scratch };
    std::vector<Register> kinds_;
    std::vector<float> values_;  ///< of constants, by register
    std::vector<int> places_;    ///< of inputs: which one
    std::vector<Step> steps_;
    std::vector<Filled> tables_;
    int inputs_ = 0;
    int result_ = -1;
};

}  // namespace rendak::formula
