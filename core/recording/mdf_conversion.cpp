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

/// Conversions that one may be made of, at all depths: more are made to keep a reader busy.
constexpr int most_parts = 256;

Conversion read_part(const File& file, std::uint64_t place, int depth, int& parts);

/// Names of values or ranges; single keys, and all other numbers, may have scales of their own.
void read_names(const File& file, const Block& block, bool ranges, int depth, int& parts, Conversion& out) {
    const std::size_t refs =
        std::min<std::size_t>(block.number<std::uint16_t>(4), block.links > 4 ? block.links - 4 : 0);
    const std::size_t keys = std::min(ranges ? out.values.size() / 2 : out.values.size(), refs);
    bool scaled = false;
    const auto scale_at = [&](std::size_t i) -> std::shared_ptr<const Conversion> {
        if (i >= refs || depth > 3 || !file.block(block.link(4 + i), "CC")) return nullptr;
        if (++parts > most_parts) return nullptr;
        scaled = true;
        return std::make_shared<const Conversion>(read_part(file, block.link(4 + i), depth + 1, parts));
    };
    for (std::size_t i = 0; i < keys; ++i) {
        out.of_keys.push_back(scale_at(i));
        const std::string text = out.of_keys.back() != nullptr || i >= 32 ? "" : file.text(block.link(4 + i));
        if (!text.empty()) out.names.push_back(fixed(out.values[ranges ? 2 * i : i], 0) + " = " + text);
    }
    out.otherwise = scale_at(keys);
    out.names_are_ranges = ranges;
    // Names alone leave the numbers as they are.
    if (scaled) out.kind = Conversion::Kind::names;
    if (out.otherwise != nullptr && out.unit.empty()) out.unit = out.otherwise->unit;
}

Conversion read_part(const File& file, std::uint64_t place, int depth, int& parts) {
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
        read_names(file, *block, type == 8, depth, parts, out);
    else if (type != 0 && type < 7)
        out.kind = Kind::unknown;
    return out;
}

}  // namespace

Conversion read_conversion(const File& file, std::uint64_t place) {
    int parts = 0;
    Conversion out = read_part(file, place, 0, parts);
    if (parts > most_parts) {
        out.kind = Conversion::Kind::unknown;
        out.names = {"its conversion is made of too many others"};
    }
    return out;
}

}  // namespace rendak::mdf
