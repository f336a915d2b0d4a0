#include "core/recording/mdf_conversion.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"
#include "core/recording/mdf_formula.h"

namespace rendak::mdf {
namespace {

void read_formula(const File& file, const Block& block, Conversion& out) {
    const std::string text = file.text(block.link(4));
    const auto formula = formula_of(text);
    out.kind = formula ? Conversion::Kind::formula : Conversion::Kind::unknown;
    if (formula) out.formula = *formula;
    out.names = {formula ? "" : "the formula \"" + text + "\" cannot be read"};
}

/// Keys must rise; files do not always keep to that.
void sort_pairs(std::vector<double>& values) {
    std::vector<std::pair<double, double>> pairs;
    for (std::size_t i = 0; i + 1 < values.size(); i += 2) pairs.emplace_back(values[i], values[i + 1]);
    std::erase_if(pairs, [](const auto& pair) { return std::isnan(pair.first); });
    std::stable_sort(pairs.begin(), pairs.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    values.clear();
    for (const auto& [key, value] : pairs) values.insert(values.end(), {key, value});
}

/// Names of values or ranges; the reference behind them may be a scale for all other numbers.
void read_names(const File& file, const Block& block, bool ranges, int depth, Conversion& out) {
    const std::size_t refs =
        std::min<std::size_t>(block.number<std::uint16_t>(4), block.links > 4 ? block.links - 4 : 0);
    const std::size_t named = ranges ? out.values.size() / 2 : out.values.size();
    for (std::size_t i = 0; i < std::min<std::size_t>({refs, named, 32}); ++i) {
        const std::string text = file.text(block.link(4 + i));
        if (!text.empty()) out.names.push_back(fixed(out.values[ranges ? 2 * i : i], 0) + " = " + text);
    }
    if (refs <= named || depth > 3 || !file.block(block.link(4 + named), "CC")) return;
    out.otherwise = std::make_shared<const Conversion>(read_conversion(file, block.link(4 + named), depth + 1));
    out.kind = Conversion::Kind::names;
    out.names_are_ranges = ranges;
    if (out.unit.empty()) out.unit = out.otherwise->unit;
}

}  // namespace

Conversion read_conversion(const File& file, std::uint64_t place, int depth) {
    Conversion out;
    const auto block = file.block(place, "CC");
    if (!block) return out;
    out.unit = file.text(block->link(1));
    const auto type = block->number<std::uint8_t>(0);
    const std::size_t there = block->data.size() > 24 ? (block->data.size() - 24) / 8 : 0;
    const std::size_t count = std::min<std::size_t>(block->number<std::uint16_t>(6), there);
    for (std::size_t i = 0; i < count; ++i) out.values.push_back(block->number<double>(24 + 8 * i));
    using Kind = Conversion::Kind;
    if (type == 1 && count >= 2)
        out.kind = Kind::linear;
    else if (type == 2 && count >= 6)
        out.kind = Kind::rational;
    else if (type == 3)
        read_formula(file, *block, out);
    else if ((type == 4 || type == 5) && count >= 2) {
        out.kind = type == 4 ? Kind::table : Kind::table_steps;
        sort_pairs(out.values);
    } else if (type == 6 && count >= 3)
        out.kind = Kind::ranges;
    else if (type == 7 || type == 8)
        read_names(file, *block, type == 8, depth, out);
    else if (type != 0 && type < 7)
        out.kind = Kind::unknown;
    return out;
}

}  // namespace rendak::mdf
