#include "core/formula/book.h"
#include "core/formula/evaluate.h"
#include "tests/fuzz/fuzz.h"
#include "tests/support/formula_world.h"

/// Text of a formula, of a pasted one, or of a set: nothing may hang, crash or be lost in printing. What can be checked
/// is computed on a second of samples.
int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace rendak;
    const std::string text(reinterpret_cast<const char*>(data), size);
    static test::FormulaWorld world = [] {
        test::FormulaWorld made;
        made.add("speed", "m/s", std::vector<float>(100, 30), 100);
        made.add("lateral", "m/s²", std::vector<float>(20, 3), 20);
        made.add("tyre", "K", {350, 351, 352}, 10);
        made.add("x", "", std::vector<float>(50, 2), 50);
        made.add_constant("car.mass", 700, "kg");
        made.add_lap(0, 0.4);
        made.add_lap(0.4, 1);
        return made;
    }();
    if (const auto syntax = formula::parse(text)) {
        const std::string printed = formula::print(*syntax);
        if (printed.size() <= formula::longest_text) {
            const auto again = formula::parse(printed);
            if (again && !formula::same(*syntax, *again)) __builtin_trap();
        }
        // Windows and rates of a hostile formula are bounded by what a second of samples can hold.
        (void)world.evaluate(text);
        (void)world.evaluate(text, {.range_s = {0.3, 0.5}});
    }
    (void)formula::formula_from_text(text);
    if (const auto set = formula::set_from_json(text, "fuzz")) {
        if (!(*formula::set_from_json(formula::set_to_json(*set), "again") == *set)) __builtin_trap();
        const formula::Book book = formula::book_for({*set}, {}, {});
        const formula::Constants constants;
        const Aliases aliases;
        formula::Resolver resolver(book, constants, aliases, nullptr);
        for (const auto& it : set->formulas) (void)resolver.fingerprint(it.name);
    }
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    return {
        "sqrt(speed² + 2 * lateral * 3 m) / 1 km/h if speed > 100 km/h and not x == 2 else 0.5",
        "lowpass(gradient(speed), 5 Hz, order=4) + savgol_filter(lateral, window=0.2 s, deriv=0)",
        "mean(x, from=10 m, to=20 m, where=x > 1, per=lap) * interp(x, [0, 1, 2], [3 bar, 4 bar, 5 bar])",
        "time_while(debounce(hysteresis(speed, 10 m/s, 20 m/s), 0.1 s), per=run) / first_of(nothing, lap_time)",
        "# a comment\nroll_rate in °/s from -50 to 50 with 1 decimals at 100 Hz = gradient(roll)",
        R"({"rendak":"formula set","version":1,"name":"a","formulas":[{"name":"b","formula":"c * 2"},{"name":"c","formula":"b"}]})",
        "tyre - 90 °C + resample(tyre, 7 Hz) - tyre",
        "bitwise_and(x, 3) + delay(x, -0.1 s) + value_at(x, time=0.2 s)"};
}
