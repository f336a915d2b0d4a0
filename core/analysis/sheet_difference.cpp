#include "core/analysis/sheet_difference.h"

#include <algorithm>

#include "core/base/text.h"

namespace rendak {
namespace {

bool same_value(const SheetValue& a, const SheetValue& b) {
    if (trimmed(a.unit) != trimmed(b.unit)) return false;
    const auto x = sheet_number(a.value), y = sheet_number(b.value);
    return x && y ? *x == *y : trimmed(a.value) == trimmed(b.value);
}

const SheetValue* find(std::span<const SheetValue> values, const SheetValue& like) {
    const auto found = std::find_if(values.begin(), values.end(),
                                    [&](const SheetValue& value) { return folded(value.name) == folded(like.name); });
    return found == values.end() ? nullptr : &*found;
}

}  // namespace

std::vector<SheetDifference> sheet_differences(std::span<const SheetValue> before, std::span<const SheetValue> after) {
    std::vector<SheetDifference> out;
    for (const SheetValue& value : after) {
        const SheetValue* old = find(before, value);
        if (old == nullptr)
            out.push_back({value.name, "", value.value, value.unit});
        else if (!same_value(*old, value))
            out.push_back({value.name,
                           old->value + (old->unit == value.unit || old->unit.empty() ? "" : " " + old->unit),
                           value.value, value.unit});
    }
    for (const SheetValue& value : before) {
        if (find(after, value) == nullptr) out.push_back({value.name, value.value, "", value.unit});
    }
    return out;
}

std::string changes_text(std::span<const SheetDifference> differences) {
    std::string out;
    for (const SheetDifference& one : differences) {
        if (!out.empty()) out += "; ";
        const std::string unit = one.unit.empty() ? "" : " " + one.unit;
        out += one.name + " ";
        if (one.before.empty())
            out += one.after + unit + " (new)";
        else if (one.after.empty())
            out += one.before + unit + " taken out";
        else
            out += one.before + " to " + one.after + unit;
    }
    return out;
}

}  // namespace rendak
