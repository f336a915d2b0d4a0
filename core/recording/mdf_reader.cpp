#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/base/file_io.h"
#include "core/base/mapping_guard.h"
#include "core/base/spill.h"
#include "core/base/text.h"
#include "core/recording/channel_units.h"
#include "core/recording/mdf.h"
#include "core/recording/mdf_conversion.h"
#include "core/recording/mdf_file.h"
#include "core/recording/mdf_samples.h"
#include "core/recording/mdf_values.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

using namespace mdf;

/// Groups, channels and conversions of a real file stay far below.
constexpr std::size_t most_in_a_list = 100'000;

class MdfReader {
  public:
    MdfReader(std::string_view bytes, std::string file, const Aliases& aliases, const JobContext& job)
        : file_(bytes, bytes.substr(0, 8) == "UnFinMF "), name_(std::move(file)), aliases_(aliases), job_(job) {}

    Result<ReadRecording> read() {
        if (auto head = read_head(); !head) return pass_on(head.error());
        std::vector<std::uint64_t> places;
        for (std::uint64_t place = file_.block(64, "HD")->link(0); place != 0;) {
            const auto group = file_.block(place, "DG");
            if (!group) {
                cut_off_ = true;
                break;
            }
            if (!first_visit(place)) return damaged("its list of data groups comes back to itself");
            places.push_back(place);
            place = group->link(0);
        }
        for (std::size_t i = 0; i < places.size(); ++i) {
            if (auto done = read_data_group(*file_.block(places[i], "DG")); !done) return pass_on(done.error());
            job_.report(static_cast<double>(i + 1) / static_cast<double>(places.size()));
        }
        if (infinite_ > 0) say(counted(infinite_, "sample is", "samples are") + " infinite; taken as missing.");
        if (cut_off_)
            say("The file ends in the middle (the logger lost its power or the copy broke off); what could be read was "
                "kept.");
        if (out_.recording.channels.empty()) {
            return fail(ErrorCode::bad_input,
                        "No channel of this MDF file could be read" +
                            std::string(out_.notes.empty() ? "" : ": " + out_.notes.back()) +
                            (out_.notes.empty() ? "." : ""),
                        name_);
        }
        return std::move(out_);
    }

  private:
    void say(std::string note) { out_.notes.push_back(std::move(note)); }
    tl::unexpected<Error> damaged(const std::string& what) const {
        return fail(ErrorCode::bad_input,
                    "The MDF file is damaged: " + what + ". Export or download it again; nothing was imported.", name_);
    }

    Result<void> read_head() {
        const auto version_text = file_.bytes().size() >= 64 ? file_.bytes().substr(8, 4) : std::string_view();
        if (version_text.empty() || version_text[0] != '4')
            return fail(ErrorCode::unsupported,
                        "This is an MDF file of version " + std::string(trimmed(version_text)) +
                            "; versions 4.00 and later are read. Export it as MDF 4, or as CSV.",
                        name_);
        if (file_.bytes().substr(0, 8) == "UnFinMF ") {
            unfinished_ = true;
            say("The logger did not finish this file (it lost its power?); what is in it was read.");
        }
        const auto head = file_.block(64, "HD");
        if (!head) return damaged("it has no header");
        const auto start_ns = head->number<std::uint64_t>(0);
        const auto flags = head->number<std::uint8_t>(12);
        if (start_ns != 0) out_.recording.start_unix_s = static_cast<double>(start_ns) * 1e-9;
        if ((flags & 1) != 0) say("The start time is the logger's local time, without its time zone; taken as UTC.");
        // The maker's name stands in the file history.
        if (const auto history = file_.block(head->link(1), "FH")) out_.recording.logger = tool_of(history->link(1));
        return {};
    }

    [[nodiscard]] std::string tool_of(std::uint64_t place) const {
        const auto block = file_.block(place, "MD");
        if (!block) return {};
        const auto begin = block->data.find("<tool_id>"), end = block->data.find("</tool_id>");
        if (begin == std::string_view::npos || end == std::string_view::npos || end < begin) return {};
        return std::string(block->data.substr(begin + 9, std::min<std::size_t>(end - begin - 9, 100)));
    }

    /// Many channels may share one: read once, kept by place.
    const Conversion& read_conversion(std::uint64_t place) {
        const auto known = conversions_.find(place);
        return known != conversions_.end() ? known->second : conversions_[place] = mdf::read_conversion(file_, place);
    }

    Result<Group> read_group(const Block& block, std::uint64_t own_place) {
        Group out;
        out.place = own_place;
        out.record_id = block.number<std::uint64_t>(0);
        out.cycles = block.number<std::uint64_t>(8);
        out.flags = block.number<std::uint16_t>(16);
        out.data_bytes = block.number<std::uint32_t>(24);
        out.invalid_bytes = block.number<std::uint32_t>(28);
        out.name = file_.text(block.link(2));
        // The times of a group may stand in another one (MDF 4.2).
        if ((out.flags & 8) != 0) out.master_group = block.link(6);
        if (auto done = read_channels(block.link(1), 0, out); !done) return pass_on(done.error());
        return out;
    }

    /// A chain of channels; the members of a structure stand below it.
    Result<void> read_channels(std::uint64_t first, int depth, Group& out) {
        for (std::uint64_t place = first; place != 0;) {
            const auto channel = file_.block(place, "CN");
            if (!channel) {
                cut_off_ = true;
                break;
            }
            if (!first_visit(place)) return damaged("its list of channels comes back to itself");
            if (++channels_ > most_in_a_list)
                return damaged("it claims more than " + std::to_string(most_in_a_list) + " channels");
            if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", name_);
            MdfChannel one = read_channel(*channel);
            const auto parts = file_.block(channel->link(1));
            one.is_array = parts && parts->id == "CA";
            if (parts && parts->id == "CN" && depth < 8) {
                if (auto done = read_channels(channel->link(1), depth + 1, out); !done) return done;
            } else {
                out.channels.push_back(std::move(one));
            }
            place = channel->link(0);
        }
        return {};
    }

    MdfChannel read_channel(const Block& block) {
        MdfChannel out;
        out.name = file_.text(block.link(2));
        out.conversion = &read_conversion(block.link(4));
        out.unit = file_.text(block.link(6));
        if (out.unit.empty()) out.unit = out.conversion->unit;
        out.comment = file_.text(block.link(7));
        out.type = static_cast<CnType>(block.number<std::uint8_t>(0));
        out.sync_type = block.number<std::uint8_t>(1);
        out.data_type = block.number<std::uint8_t>(2);
        out.bit_offset = block.number<std::uint8_t>(3);
        out.byte_offset = block.number<std::uint32_t>(4);
        out.bit_count = block.number<std::uint32_t>(8);
        out.flags = block.number<std::uint32_t>(12);
        out.invalid_bit = block.number<std::uint32_t>(16);
        return out;
    }

    Result<void> read_data_group(const Block& data_group) {
        const auto id_size = data_group.number<std::uint8_t>(0);
        if (id_size != 0 && id_size != 1 && id_size != 2 && id_size != 4 && id_size != 8)
            return damaged("a record number of " + std::to_string(id_size) + " bytes");
        std::vector<Group> groups;
        for (std::uint64_t place = data_group.link(1); place != 0;) {
            const auto block = file_.block(place, "CG");
            if (!block) {
                cut_off_ = true;
                break;
            }
            if (!first_visit(place)) return damaged("its list of channel groups comes back to itself");
            auto group = read_group(*block, place);
            if (!group) return pass_on(group.error());
            groups.push_back(std::move(*group));
            place = block->link(0);
        }
        if (groups.empty() || data_group.link(2) == 0) return {};
        // A record is never shorter than a byte, and no file holds more than deflate can have packed into it.
        const std::uint64_t most = std::min<std::uint64_t>(file_.bytes().size() * 1040 + 1024, memory_);
        const bool sorted = groups.size() == 1 && (groups[0].flags & 1) == 0;
        const std::size_t step = sorted ? groups[0].record_size() + id_size : 0;
        auto data = mdf::collect_data(file_, data_group.link(2), step, most, job_);
        if (!data) {
            Error error = data.error();
            error.where = name_;
            return pass_on(std::move(error));
        }
        if (data->damaged)
            say("A packed block of " + (groups[0].name.empty() ? "a group" : "group \"" + groups[0].name + "\"") +
                " is damaged: its samples from there on are missing.");
        else if (!data->whole)
            cut_off_ = true;
        if (!sorted) return data->pieces.empty() ? Result<void>() : read_unsorted(groups, id_size, data->pieces[0]);
        const Group& group = groups[0];
        SpillBuffer<char> joined;
        if (!data->invalid.empty() && group.invalid_bytes > 0) {
            joined = with_invalid(group, data->pieces[0], data->invalid);
            data->pieces = {{joined.data(), joined.size()}};
        }
        if (step == 0) return {};
        AllRecords records;
        for (const std::string_view piece : data->pieces)
            records.add({piece.data() + id_size, piece.size() / step, step});
        // A count of none over records that are there was never written.
        if (!unfinished_ && group.cycles < records.count && group.cycles > 0) records.shorten_to(group.cycles);
        if (!unfinished_ && group.cycles > records.count && data->whole) cut_off_ = true;
        return read_records(group, records);
    }

    /// Records whose invalidation bytes are kept apart, put together as older files have them.
    static SpillBuffer<char> with_invalid(const Group& group, std::string_view values, std::string_view invalid) {
        const std::size_t count =
            std::min(values.size() / std::max<std::size_t>(group.data_bytes, 1), invalid.size() / group.invalid_bytes);
        SpillBuffer<char> out(count * group.record_size());
        for (std::size_t i = 0; i < count; ++i) {
            std::memcpy(out.data() + i * group.record_size(), values.data() + i * group.data_bytes, group.data_bytes);
            std::memcpy(out.data() + i * group.record_size() + group.data_bytes,
                        invalid.data() + i * group.invalid_bytes, group.invalid_bytes);
        }
        return out;
    }

    /// Records of several groups in one stream, each led by its number.
    Result<void> read_unsorted(const std::vector<Group>& groups, std::size_t id_size, std::string_view bytes) {
        if (id_size == 0) return damaged("records of several groups without numbers");
        std::map<std::uint64_t, std::pair<const Group*, SpillBuffer<char>>> sorted;
        for (const Group& group : groups) {
            if ((group.flags & 1) != 0) {
                say("Texts of group \"" + group.name + "\" were left out.");
            }
            sorted[group.record_id].first = &group;
        }
        std::size_t at = 0;
        while (at + id_size <= bytes.size()) {
            std::uint64_t id = 0;
            std::memcpy(&id, bytes.data() + at, id_size);
            at += id_size;
            const auto found = sorted.find(id);
            if (found == sorted.end()) {
                if (at > id_size) cut_off_ = true;
                break;
            }
            const Group& group = *found->second.first;
            std::size_t size = group.record_size();
            if ((group.flags & 1) != 0) {  // a text: its length, then itself
                std::uint32_t length = 0;
                if (at + 4 > bytes.size()) break;
                std::memcpy(&length, bytes.data() + at, 4);
                at += 4 + std::size_t{length};
                continue;
            }
            if (at + size > bytes.size()) break;
            SpillBuffer<char>& into = found->second.second;
            const std::size_t old = into.size();
            into.resize(old + size);
            std::memcpy(into.data() + old, bytes.data() + at, size);
            at += size;
        }
        for (const auto& [id, entry] : sorted) {
            const Group& group = *entry.first;
            if ((group.flags & 1) != 0 || group.record_size() == 0) continue;
            AllRecords records;
            records.add({entry.second.data(), entry.second.size() / group.record_size(), group.record_size()});
            if (auto done = read_records(group, records); !done) return done;
        }
        return {};
    }

    /// Whether a channel's bytes lie inside the record.
    [[nodiscard]] static bool fits(const Group& group, const MdfChannel& channel) {
        if (!channel.is_number() || channel.bit_count == 0 || channel.bit_count > 64 || channel.bit_offset > 7)
            return false;
        if (channel.data_type >= 4 && (channel.bit_offset != 0 ||
                                       (channel.bit_count != 16 && channel.bit_count != 32 && channel.bit_count != 64)))
            return false;
        const std::uint64_t end = std::uint64_t{channel.byte_offset} + (channel.bit_offset + channel.bit_count + 7) / 8;
        return end <= group.data_bytes;
    }

    /// Leaves records out whose time does not rise.
    void keep_rising(Clock& clock, const std::string& where) {
        const auto rises = [last = -std::numeric_limits<double>::infinity()](double t) mutable {
            if (!(t > last) || !(t < std::numeric_limits<double>::infinity())) return false;
            last = t;
            return true;
        };
        if (std::all_of(clock.times_s.begin(), clock.times_s.end(), rises)) return;
        auto rises_again = rises;
        for (std::size_t i = 0; i < clock.times_s.size(); ++i) {
            if (rises_again(clock.times_s[i])) clock.kept.push_back(i);
        }
        say(where + ": " + counted(clock.times_s.size() - clock.kept.size(), "record was", "records were") +
            " left out because the time does not rise.");
        for (std::size_t i = 0; i < clock.kept.size(); ++i) clock.times_s[i] = clock.times_s[clock.kept[i]];
        clock.times_s.resize(clock.kept.size());
    }

    /// Null, and said: the group has no times. An error: its times cannot be understood.
    Result<const Clock*> times_of(const Group& group, const AllRecords& records) {
        const MdfChannel* master = nullptr;
        for (const MdfChannel& channel : group.channels) {
            if (channel.is_master() && channel.sync_type == 1) master = &channel;
        }
        const std::string where = group.name.empty() ? "A group of channels" : "Group \"" + group.name + "\"";
        if (master == nullptr && group.master_group != 0) {
            const auto found = clocks_.find(group.master_group);
            if (found != clocks_.end() && found->second.times_s.size() == records.count) return &found->second;
        }
        if (master == nullptr || (master->type == CnType::master && !fits(group, *master))) {
            say(where + " has no time of its own and was left out.");
            return nullptr;
        }
        double factor = 1;
        if (!master->unit.empty()) {
            const auto unit = parse_unit(master->unit);
            if (!unit || !(unit->dimension == Dimension{0, 0, 1, 0, 0, 0}))
                return fail(
                    ErrorCode::unsupported,
                    where + " counts its time in \"" + master->unit +
                        "\", which is not known. Export the file with the time in seconds; nothing was imported.",
                    name_);
            factor = unit->factor;
        }
        Clock out;
        out.times_s = read_times(*master, records, factor);
        keep_rising(out, where);
        if (out.times_s.size() < 2) return nullptr;
        const double step = (out.times_s.back() - out.times_s.front()) / static_cast<double>(out.times_s.size() - 1);
        if (!(step > 1e-7) || step > 86'400 || std::abs(out.times_s.back()) > 1e11)
            return fail(ErrorCode::bad_input,
                        where + " has a sample every " + std::to_string(step) +
                            " s by its times, which no logger takes. Check the unit of its time (\"" + master->unit +
                            "\"); nothing was imported.",
                        name_);
        out.fitted = fit_regular_clock(out.times_s, 1e-6);
        return &(clocks_[group.place] = std::move(out));
    }

    Result<void> read_records(const Group& group, const AllRecords& records) {
        if (records.count == 0) return {};
        const auto found = times_of(group, records);
        if (!found) return pass_on(found.error());
        const Clock* const clock = *found;
        if (clock == nullptr) return {};
        std::vector<const MdfChannel*> wanted;
        for (const MdfChannel& channel : group.channels) {
            if (channel.is_master() || channel.name.empty()) continue;
            if (channel.is_array) {
                say("Channel \"" + channel.name + "\" holds several values a sample (an array) and was left out.");
                continue;
            }
            if (channel.conversion->kind == Conversion::Kind::unknown) {
                say("Channel \"" + channel.name + "\" was left out: " +
                    (channel.conversion->names.empty() ? "its conversion cannot be read"
                                                       : channel.conversion->names[0]) +
                    ".");
                continue;
            }
            const bool by_count = channel.type == CnType::virtual_data;
            if (!by_count && (channel.type != CnType::value || !fits(group, channel))) {
                say("Channel \"" + channel.name + "\" holds no numbers and was left out.");
                continue;
            }
            // Channels may lie over each other in a record: few bytes of file can claim any number of samples.
            if ((taken_ += clock->times_s.size() * 8 * 2) > memory_)
                return fail(ErrorCode::bad_input,
                            "This MDF file would need more than the " + std::to_string(memory_ >> 20) +
                                " MB of memory that are to be had. Nothing was imported.",
                            name_);
            wanted.push_back(&channel);
        }
        // All samples of a group lie in one block: many small ones would be many times dearer to get.
        std::size_t floats = 0, doubles = clock->fitted ? 0 : clock->times_s.size();
        for (const MdfChannel* channel : wanted) (is_wide(*channel) ? doubles : floats) += clock->samples();
        const auto block = std::make_shared<SpillBuffer<std::byte>>(doubles * sizeof(double) + floats * sizeof(float));
        auto* next_double = reinterpret_cast<double*>(block->data());
        auto* next_float = reinterpret_cast<float*>(block->data() + doubles * sizeof(double));
        SampleClock own;
        if (clock->fitted) {
            own.start_s = clock->fitted->start_s;
            own.rate_hz = clock->fitted->rate_hz;
        } else {
            own.start_s = clock->times_s.front();
            own.times_s = {next_double, clock->times_s.size()};
            next_double = std::copy(clock->times_s.begin(), clock->times_s.end(), next_double);
        }
        std::vector<Column> columns;
        for (const MdfChannel* channel : wanted) {
            Column& column = columns.emplace_back(Column{channel, {}, {}});
            if (is_wide(*channel)) {
                column.doubles = {next_double, clock->samples()};
                next_double += clock->samples();
            } else {
                column.floats = {next_float, clock->samples()};
                next_float += clock->samples();
            }
        }
        read_columns(columns, group, records, *clock, [this] { return job_.stopped(); });
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", name_);
        for (const Column& column : columns) {
            infinite_ += column.seen.infinite;
            add_channel(column, own, block);
        }
        return {};
    }

    /// Positions and 64-bit numbers need more than a float's digits.
    [[nodiscard]] bool is_wide(const MdfChannel& channel) const {
        const Quantity* wanted = match_quantity(channel.name, aliases_);
        return (wanted != nullptr && (wanted->id == "latitude" || wanted->id == "longitude")) ||
               (channel.bit_count > 32 && channel.data_type >= 4) || (channel.bit_count > 24 && channel.is_whole());
    }

    void add_channel(const Column& column, const SampleClock& clock, const std::shared_ptr<const void>& owner) {
        const MdfChannel& channel = *column.channel;
        const auto [low, high, infinite] = column.seen;
        if (low > high) {
            say("Channel \"" + channel.name + "\" holds no valid sample and was left out.");
            return;
        }
        const UnitPlan plan = plan_units(channel.name, channel.unit, match_quantity(channel.name, aliases_), low, high);
        if (!plan.note.empty()) say(plan.note);
        if (plan.changes_values()) {
            const auto convert = [&](auto values) {
                using Number = typename decltype(values)::value_type;
                for (auto& value : values) value = static_cast<Number>(value * plan.factor + plan.offset);
            };
            convert(column.doubles);
            convert(column.floats);
            let_go(column.doubles.data(), column.doubles.size_bytes());
            let_go(column.floats.data(), column.floats.size_bytes());
        }
        if (!channel.conversion->names.empty() && channel.conversion->kind != Conversion::Kind::formula) {
            std::string names;
            for (const auto& name : channel.conversion->names) names += (names.empty() ? "" : ", ") + name;
            say("Channel \"" + channel.name + "\": the numbers stand for " + names +
                (channel.conversion->kind == Conversion::Kind::names ? "; those samples are missing." : "."));
        }
        if (!channel.comment.empty()) say("Channel \"" + channel.name + "\": " + channel.comment);
        Channel out = column.doubles.empty() ? make_channel(channel.name, plan.quantity, plan.stored_unit,
                                                            std::span<const float>(column.floats), clock, owner)
                                             : make_channel(channel.name, plan.quantity, plan.stored_unit,
                                                            std::span<const double>(column.doubles), clock, owner);
        out.source_unit = channel.unit;
        out_.recording.channels.push_back(std::move(out));
    }

    /// False for a block that was met before: a list that leads back to itself.
    bool first_visit(std::uint64_t place) { return visited_.insert(place).second; }

    File file_;
    std::string name_;
    std::set<std::uint64_t> visited_;
    std::map<std::uint64_t, Conversion> conversions_;  // of stable addresses
    std::map<std::uint64_t, Clock> clocks_;            ///< of groups, for those without their own
    std::size_t infinite_ = 0;
    std::size_t channels_ = 0, taken_ = 0, memory_ = memory_for_one_file();
    const Aliases& aliases_;
    JobContext job_;
    bool unfinished_ = false, cut_off_ = false;
    ReadRecording out_;
};

}  // namespace

bool looks_like_mdf(std::string_view text) {
    const auto id = text.substr(0, 8);
    return id == "MDF     " || id == "UnFinMF ";
}

Result<ReadRecording> read_mdf(const std::filesystem::path& file, const Aliases& aliases, const JobContext& job) {
    const auto mapping = MappedFile::open(file);
    if (!mapping) return pass_on(mapping.error());
    auto read = MdfReader((*mapping)->text(), file.string(), aliases, job).read();
    if ((*mapping)->shrank()) return pass_on(file_changed(file));
    if (read) read->recording.source_name = file.filename().string();
    return read;
}

}  // namespace rendak
