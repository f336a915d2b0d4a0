#include "core/trials/change_parts.h"

#include <algorithm>

#include "core/base/text.h"

namespace rendak {
namespace {

using enum LapPart;

/// What engineers change, and where it shows. The first row whose word is in the change counts.
struct ChangeRow {
    std::vector<std::string_view> words;
    std::vector<LapPart> parts;
};
const std::vector<ChangeRow>& rows() {
    static const std::vector<ChangeRow> all{
        {{"wing", "flap", "gurney", "downforce", "splitter", "diffuser"}, {fast_corners, straights}},
        {{"duct", "cooling", "radiator", "opening"}, {straights}},
        {{"packer", "third", "ride height", "rake"}, {fast_corners, straights}},
        {{"brake balance", "pad", "disc", "brake bias"}, {braking}},
        {{"gear", "ratio", "final drive"}, {straights}},
        {{"engine", "map", "boost", "power", "restrictor", "exhaust", "intake"}, {straights}},
        {{"tyre", "pressure"}, {braking, slow_corners, middle_corners, fast_corners}},
        {{"differential", "preload", "ramp"}, {slow_corners, middle_corners}},
        {{"bump", "rebound", "damper", "spring", "bar", "camber", "toe", "caster"},
         {slow_corners, middle_corners, fast_corners}},
    };
    return all;
}

std::string list_of(const std::vector<LapPart>& parts) {
    std::string out;
    for (const LapPart part : parts) out += (out.empty() ? "" : ", ") + std::string(lap_part_name(part));
    return out;
}

}  // namespace

std::string_view lap_part_name(LapPart part) {
    switch (part) {
        case braking:
            return "braking";
        case slow_corners:
            return "slow corners";
        case middle_corners:
            return "middling corners";
        case fast_corners:
            return "fast corners";
        case straights:
            return "straights";
    }
    return "";
}

LapPart part_of_corner(double slowest_mps) {
    return slowest_mps < slow_corner_mps ? slow_corners : slowest_mps > fast_corner_mps ? fast_corners : middle_corners;
}

std::vector<LapPart> parts_of_change(std::string_view change) {
    const std::string text = lower(change);
    // Whole words and their plurals only: "bar" is not in "barely".
    const auto has = [&](std::string_view word) {
        for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) {
            const auto letter = [&](std::size_t i) { return i < text.size() && text[i] >= 'a' && text[i] <= 'z'; };
            std::size_t end = at + word.size();
            if (end < text.size() && text[end] == 's') ++end;
            if ((at == 0 || !letter(at - 1)) && !letter(end)) return true;
        }
        return false;
    };
    for (const ChangeRow& row : rows())
        if (std::any_of(row.words.begin(), row.words.end(), has)) return row.parts;
    return {};
}

Separable separable(const std::vector<std::string>& changes) {
    if (changes.empty()) return {true, ""};
    if (changes.size() == 1) {
        const auto parts = parts_of_change(changes[0]);
        return {true, parts.empty() ? "Where " + changes[0] + " acts is not known."
                                    : changes[0] + " acts on " + list_of(parts) + "."};
    }
    std::string told, mixed;
    for (std::size_t i = 0; i < changes.size(); ++i) {
        const auto own = parts_of_change(changes[i]);
        if (own.empty()) {
            mixed += (mixed.empty() ? "" : "; ") + ("where " + changes[i] + " acts is not known");
            continue;
        }
        told += (told.empty() ? "" : "; ") + changes[i] + ": " + list_of(own);
        for (std::size_t k = 0; k < i; ++k) {
            const auto other = parts_of_change(changes[k]);
            std::vector<LapPart> shared;
            std::copy_if(own.begin(), own.end(), std::back_inserter(shared),
                         [&](LapPart part) { return std::find(other.begin(), other.end(), part) != other.end(); });
            if (!shared.empty())
                mixed +=
                    (mixed.empty() ? "" : "; ") + changes[k] + " and " + changes[i] + " both act on " + list_of(shared);
        }
    }
    if (mixed.empty()) return {true, "They act on different parts of the lap (" + told + "), so each can be told."};
    return {false, "They cannot be told apart: " + mixed + "."};
}

}  // namespace rendak
