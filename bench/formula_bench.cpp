// Formulas beside a hand-written loop and muParser in bulk mode, in one run; bench/run adds NumPy and prints the
// ratios.
#include <benchmark/benchmark.h>

#include <filesystem>
#include <random>

#include "core/formula/evaluate.h"
#include "core/intake/run_data.h"

#ifdef RENDAK_MUPARSER
#include <muParser.h>
#endif

using namespace rendak;

void hand_loop(float* out, const float* a, const float* b, const float* c, std::size_t n);

namespace {

constexpr std::size_t count = 10'000'000;
constexpr const char* expression = "sqrt(a * a + b * b) * 0.5 + (a if c > 10 else b)";

/// Three channels of plain numbers, 10 million samples each.
struct World {
    std::map<std::string, Channel> channels;
    formula::RunView view;
    formula::Names names;
    std::vector<float> out = std::vector<float>(count);

    World() {
        std::mt19937 engine(1);
        std::uniform_real_distribution<float> value(0, 20);
        for (const char* name : {"a", "b", "c"}) {
            ChannelStorage storage;
            storage.floats.resize(count);
            for (float& x : storage.floats) x = value(engine);
            channels[name] = make_channel(name, {}, {}, std::move(storage), 0, 100);
        }
        view.channel = [this](const std::string& id) -> tl::expected<const Channel*, std::string> {
            return &channels.at(id);
        };
        names.find = [this](const std::string& name) -> tl::expected<formula::Named, formula::NotNamed> {
            if (!channels.contains(name)) return tl::unexpected(formula::NotNamed{});
            formula::Named named;
            named.id = name;
            return named;
        };
    }
    const float* data(const char* name) const { return channels.at(name).floats().data(); }
};
World& world() {
    static World made;
    return made;
}

void formula_in_blocks(benchmark::State& state) {
    const auto checked = formula::check(expression, world().names);
    for (auto _ : state) {
        benchmark::DoNotOptimize(formula::evaluate_into(*checked, world().view, {}, world().out));
        benchmark::ClobberMemory();
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations() * count));
}
BENCHMARK(formula_in_blocks)->Unit(benchmark::kMillisecond);

/// With checking, compiling and fresh memory for the result.
void formula_as_a_channel(benchmark::State& state) {
    for (auto _ : state) {
        const auto checked = formula::check(expression, world().names);
        benchmark::DoNotOptimize(formula::evaluate(*checked, world().view));
    }
}
BENCHMARK(formula_as_a_channel)->Unit(benchmark::kMillisecond);

void by_hand(benchmark::State& state) {
    const float *a = world().data("a"), *b = world().data("b"), *c = world().data("c");
    for (auto _ : state) {
        hand_loop(world().out.data(), a, b, c, count);
        benchmark::ClobberMemory();
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations() * count));
}
BENCHMARK(by_hand)->Unit(benchmark::kMillisecond);

#ifdef RENDAK_MUPARSER
void muparser_bulk(benchmark::State& state) {
    std::vector<double> a(count), b(count), c(count), out(count);
    for (std::size_t i = 0; i < count; ++i) {
        a[i] = static_cast<double>(world().data("a")[i]);
        b[i] = static_cast<double>(world().data("b")[i]);
        c[i] = static_cast<double>(world().data("c")[i]);
    }
    // Its numbers are doubles: it gets its own arrays.
    for (auto _ : state) {
        mu::Parser parser;
        parser.SetExpr("sqrt(a*a+b*b)*0.5+(c>10?a:b)");
        parser.DefineVar("a", a.data());
        parser.DefineVar("b", b.data());
        parser.DefineVar("c", c.data());
        parser.Eval(out.data(), static_cast<int>(count));
        benchmark::ClobberMemory();
    }
}
BENCHMARK(muparser_bulk)->Unit(benchmark::kMillisecond);
#endif

/// The 18-lap run of the demo library in $RENDAK_BENCH_DEMO.
std::shared_ptr<const RunData> long_run() {
    const char* folder = std::getenv("RENDAK_BENCH_DEMO");
    if (folder == nullptr) return nullptr;
    const auto library = Library::open(folder, Library::Open::existing);
    if (!library) return nullptr;
    const auto run = load_run(**library, {4});
    return run ? *run : nullptr;
}

/// Everything that the shipped set can make of an 18-lap run, one core, nothing kept from before.
void starter_set_of_an_18_lap_run(benchmark::State& state) {
    const auto run = long_run();
    if (run == nullptr) return state.SkipWithError("RENDAK_BENCH_DEMO is not set");
    std::size_t made = 0;
    for (auto _ : state) {
        Recording logged = *run->recording;
        logged.derived = nullptr;
        RunFormulas formulas(run->formulas->inputs(), logged, run->laps, run->track, run->path);
        made = 0;
        for (const formula::Formula& it : formula::starter_set().formulas)
            made += formulas.find(it.name) != nullptr ? 1 : 0;
    }
    state.counters["formulas"] = static_cast<double>(made);
}
BENCHMARK(starter_set_of_an_18_lap_run)->Unit(benchmark::kMillisecond);

/// What happens at a keystroke: check, and compute one lap, for the slowest formula to type into.
void preview_of_a_lap(benchmark::State& state) {
    const auto run = long_run();
    if (run == nullptr) return state.SkipWithError("RENDAK_BENCH_DEMO is not set");
    const auto& texts = formula::starter_set().formulas;
    const auto& formula = texts[static_cast<std::size_t>(state.range(0))];
    formula::Evaluation options;
    options.range_s = {run->laps[3].start_s, run->laps[3].end_s};
    const auto compute = [&] {
        const auto checked = run->formulas->check(formula.text, formula.unit, formula.name);
        return checked && run->formulas->evaluate(*checked, options);
    };
    (void)compute();  // what it builds on has been shown before
    for (auto _ : state) benchmark::DoNotOptimize(compute());
    state.SetLabel(formula.name);
}
BENCHMARK(preview_of_a_lap)
    ->DenseRange(0, static_cast<int>(formula::starter_set().formulas.size()) - 1)
    ->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
