#include "core/recording/mdf_samples.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <mutex>

#include "core/base/mapping_guard.h"
#include "core/base/parallel.h"
#include "core/signal/low_high.h"

namespace rendak::mdf {
namespace {

/// Records of a piece: its part of one column and the records themselves stay in the cache next to the core.
constexpr std::size_t piece_records = 1024;
/// Pieces that one thread takes at a time.
constexpr std::size_t pieces_a_turn = 16;
constexpr std::size_t nowhere = ~std::size_t{0};

/// Where the sample of each record goes; empty when sample i is record i.
std::vector<std::size_t> places_of(const Clock& clock, std::size_t records) {
    const std::size_t count = clock.times_s.size();
    const bool on_slots = clock.fitted && clock.fitted->size != count;
    if (clock.kept.empty() && !on_slots) return {};
    std::vector<std::size_t> out(records, nowhere);
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t record = clock.kept.empty() ? i : clock.kept[i];
        const std::size_t place = on_slots ? clock.fitted->slot_of(clock.times_s[i]) : i;
        if (record < records && place < clock.samples()) out[record] = place;
    }
    return out;
}

/// The values of a piece of records, the first of which is record `first` of the group.
template <class Number>
void decode(const Group& group, const MdfChannel& channel, const Records& piece, std::size_t first, Number* out) {
    const Conversion& conversion = *channel.conversion;
    const bool whole = channel.is_whole();
    if (channel.type == CnType::virtual_data) {
        for (std::size_t i = 0; i < piece.count; ++i)
            out[i] = static_cast<Number>(conversion(static_cast<double>(first + i), true));
    } else if (conversion.identity()) {
        for_each_raw(piece, channel, [out](std::size_t i, auto raw) { out[i] = static_cast<Number>(raw); });
    } else if (conversion.kind == Conversion::Kind::linear) {
        const double offset = conversion.values[0], factor = conversion.values[1];
        for_each_raw(piece, channel, [=](std::size_t i, auto raw) {
            out[i] = static_cast<Number>(offset + factor * static_cast<double>(raw));
        });
    } else {
        for_each_raw(piece, channel, [&](std::size_t i, auto raw) {
            out[i] = static_cast<Number>(conversion(static_cast<double>(raw), whole));
        });
    }
    constexpr Number missing = std::numeric_limits<Number>::quiet_NaN();
    if ((channel.flags & 1) != 0) std::fill_n(out, piece.count, missing);
    if ((channel.flags & 2) != 0 && channel.invalid_bit / 8 < group.invalid_bytes) {
        const char* at = piece.first + group.data_bytes + channel.invalid_bit / 8;
        for (std::size_t i = 0; i < piece.count; ++i, at += piece.step) {
            if ((static_cast<unsigned char>(*at) >> (channel.invalid_bit % 8) & 1) != 0) out[i] = missing;
        }
    }
}

/// Takes infinities out, and looks at what is left.
template <class Number>
void look(Number* values, std::size_t count, Seen& seen) {
    constexpr Number most = std::numeric_limits<Number>::max(), beyond = std::numeric_limits<Number>::infinity();
    Number low = beyond, high = -beyond;
    const auto extent = [&] {
        if constexpr (std::is_same_v<Number, float>) {
            low_high(values, values + count, low, high);
        } else {
            for (std::size_t i = 0; i < count; ++i) {
                low = values[i] < low ? values[i] : low;
                high = values[i] > high ? values[i] : high;
            }
        }
    };
    extent();
    if (high > most || low < -most) {
        for (std::size_t i = 0; i < count; ++i) {
            if (!std::isinf(values[i])) continue;
            values[i] = std::numeric_limits<Number>::quiet_NaN();
            ++seen.infinite;
        }
        low = beyond;
        high = -beyond;
        extent();
    }
    seen.low = std::min(seen.low, static_cast<double>(low));
    seen.high = std::max(seen.high, static_cast<double>(high));
}

/// A column's samples of a piece of records.
template <class Number>
void read_piece(std::span<Number> samples, const Group& group, const MdfChannel& channel, const Records& piece,
                std::size_t first, const std::vector<std::size_t>& places, Seen& seen) {
    if (places.empty()) {
        decode(group, channel, piece, first, samples.data() + first);
        look(samples.data() + first, piece.count, seen);
        return;
    }
    Number values[piece_records];
    decode(group, channel, piece, first, values);
    look(values, piece.count, seen);
    for (std::size_t i = 0; i < piece.count; ++i) {
        if (places[first + i] != nowhere) samples[places[first + i]] = values[i];
    }
}

}  // namespace

std::vector<double> read_times(const MdfChannel& master, const AllRecords& records, double factor) {
    const Conversion& conversion = *master.conversion;
    std::vector<double> out(records.count);
    if (master.type == CnType::virtual_master) {
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = factor * conversion(static_cast<double>(i), true);
        return out;
    }
    for (const auto& [part, first] : parts_of(records, piece_records * pieces_a_turn)) {
        double* const next = out.data() + first;
        if (conversion.identity())
            for_each_raw(part, master, [&](std::size_t i, auto raw) { next[i] = factor * static_cast<double>(raw); });
        else
            for_each_raw(part, master, [&](std::size_t i, auto raw) {
                next[i] = factor * conversion(static_cast<double>(raw), master.is_whole());
            });
        let_go(part.first, part.count * part.step);
    }
    return out;
}

void read_columns(std::span<Column> columns, const Group& group, const AllRecords& records, const Clock& clock,
                  const std::function<bool()>& stopped) {
    const auto places = places_of(clock, records.count);
    // Slots that no record fills are missing samples.
    if (!places.empty() && clock.samples() != clock.times_s.size()) {
        for (Column& column : columns) {
            std::fill(column.floats.begin(), column.floats.end(), std::numeric_limits<float>::quiet_NaN());
            std::fill(column.doubles.begin(), column.doubles.end(), std::numeric_limits<double>::quiet_NaN());
        }
    }
    const auto turns = parts_of(records, piece_records * pieces_a_turn);  // what one thread takes at a time
    // Of a large recording what was read leaves this process's memory now and then.
    constexpr std::size_t turns_in_memory = 3;
    const auto let_go_of_columns = [&] {
        for (const Column& column : columns) {
            let_go(column.floats.data(), column.floats.size_bytes());
            let_go(column.doubles.data(), column.doubles.size_bytes());
        }
    };
    std::mutex mutex;
    parallel_for(turns.size(), 1, [&](std::size_t turn) {
        if (stopped()) return;
        std::vector<Seen> seen(columns.size());
        const Records& all = turns[turn].records;
        for (std::size_t at = 0; at < all.count; at += piece_records) {
            const Records piece{all.first + at * all.step, std::min(piece_records, all.count - at), all.step};
            const std::size_t first = turns[turn].first + at;
            for (std::size_t c = 0; c < columns.size(); ++c) {
                const Column& column = columns[c];
                if (column.doubles.empty())
                    read_piece(column.floats, group, *column.channel, piece, first, places, seen[c]);
                else
                    read_piece(column.doubles, group, *column.channel, piece, first, places, seen[c]);
            }
        }
        let_go(all.first, all.count * all.step);
        if (turn % turns_in_memory == 0) let_go_of_columns();
        const std::lock_guard lock(mutex);
        for (std::size_t c = 0; c < columns.size(); ++c) {
            Seen& whole = columns[c].seen;
            whole.low = std::min(whole.low, seen[c].low);
            whole.high = std::max(whole.high, seen[c].high);
            whole.infinite += seen[c].infinite;
        }
    });
    let_go_of_columns();
}

}  // namespace rendak::mdf
