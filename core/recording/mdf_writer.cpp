#include <zlib.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <ctime>

#include "core/base/file_io.h"
#include "core/recording/mdf.h"
#include "core/recording/mdf_file.h"

namespace rendak {
namespace {

template <class T>
void put(std::string& out, T value) {
    out.append(reinterpret_cast<const char*>(&value), sizeof value);
}

/// Blocks of metadata in memory; links are byte places in the file, known because they are laid one after the other.
class Layout {
  public:
    /// Appends a block and returns its place. Links that are not known yet are filled in with set_link().
    std::uint64_t add(const char* id, const std::vector<std::uint64_t>& links, const std::string& data) {
        while (bytes_.size() % 8 != 0) bytes_ += '\0';
        const std::uint64_t place = bytes_.size();
        bytes_ += "##";
        bytes_ += id;
        put<std::uint32_t>(bytes_, 0);
        put<std::uint64_t>(bytes_, 24 + 8 * links.size() + data.size());
        put<std::uint64_t>(bytes_, links.size());
        for (const auto link : links) put(bytes_, link);
        bytes_ += data;
        return place;
    }
    std::uint64_t text(const std::string& text, const char* id = "TX") {
        if (text.empty()) return 0;
        std::string data = text;
        data += '\0';
        while (data.size() % 8 != 0) data += '\0';
        return add(id, {}, data);
    }
    void set_link(std::uint64_t block, std::size_t index, std::uint64_t to) {
        std::copy_n(reinterpret_cast<const char*>(&to), 8,
                    bytes_.begin() + static_cast<std::ptrdiff_t>(block + 24 + 8 * index));
    }
    std::string& bytes() { return bytes_; }

  private:
    std::string bytes_;
};

/// Channels with one clock.
struct ClockGroup {
    std::vector<const Channel*> channels;
    [[nodiscard]] const SampleClock& clock() const { return channels.front()->clock; }
    [[nodiscard]] std::size_t record_size() const {
        std::size_t size = 8;
        for (const Channel* channel : channels) size += channel->is_double() ? 8 : 4;
        return size;
    }
    /// Records [from, to) as the file holds them.
    [[nodiscard]] std::string records(std::size_t from, std::size_t to) const {
        const std::size_t record = record_size();
        std::string out((to - from) * record, '\0');
        for (std::size_t i = from; i < to; ++i) {
            const double t = clock().time_at(i);
            std::copy_n(reinterpret_cast<const char*>(&t), 8, out.data() + (i - from) * record);
        }
        std::size_t offset = 8;
        for (const Channel* channel : channels) {
            const auto copy = [&](auto samples) {
                char* at = out.data() + offset;
                for (std::size_t i = from; i < to; ++i, at += record)
                    std::copy_n(reinterpret_cast<const char*>(&samples[i]), sizeof samples[i], at);
            };
            std::visit(copy, channel->samples);
            offset += channel->is_double() ? 8 : 4;
        }
        return out;
    }
};

bool same_clock(const SampleClock& a, const SampleClock& b) {
    return a.size == b.size && a.start_s == b.start_s && a.rate_hz == b.rate_hz &&
           a.times_s.size() == b.times_s.size() && std::equal(a.times_s.begin(), a.times_s.end(), b.times_s.begin());
}

std::string channel_data(std::uint8_t type, std::uint8_t sync, std::uint8_t data_type, std::uint32_t byte_offset,
                         std::uint32_t bits) {
    std::string data;
    put(data, type);
    put(data, sync);
    put(data, data_type);
    put<std::uint8_t>(data, 0);
    put(data, byte_offset);
    put(data, bits);
    put<std::uint32_t>(data, 0);  // flags
    put<std::uint32_t>(data, 0);  // invalidation bit
    put<std::uint32_t>(data, 0);  // precision, attachments
    for (int i = 0; i < 6; ++i) put<double>(data, 0);
    return data;
}

std::string data_block(const std::string& records, std::size_t record_size, bool compress) {
    std::string body;
    const char* id = "DT";
    if (compress) {
        id = "DZ";
        std::string columns(records.size(), '\0');
        mdf::transpose(records, record_size, columns.data());
        uLongf packed_size = compressBound(columns.size());
        std::string packed(packed_size, '\0');
        compress2(reinterpret_cast<Bytef*>(packed.data()), &packed_size, reinterpret_cast<const Bytef*>(columns.data()),
                  columns.size(), 5);
        packed.resize(packed_size);
        body += "DT";
        put<std::uint8_t>(body, 1);
        put<std::uint8_t>(body, 0);
        put(body, static_cast<std::uint32_t>(record_size));
        put<std::uint64_t>(body, records.size());
        put<std::uint64_t>(body, packed.size());
        body += packed;
    } else {
        body = records;
    }
    std::string out = "##";
    out += id;
    put<std::uint32_t>(out, 0);
    put<std::uint64_t>(out, 24 + body.size());
    put<std::uint64_t>(out, 0);
    out += body;
    while (out.size() % 8 != 0) out += '\0';
    return out;
}

struct Slice {
    std::size_t group, part, from, to;
};

class MdfWriter {
  public:
    MdfWriter(const Recording& recording, const MdfWriteOptions& options) : recording_(recording), options_(options) {
        for (const Channel& channel : recording.channels) {
            if (channel.size() == 0) continue;
            const auto same = std::find_if(groups_.begin(), groups_.end(), [&](const ClockGroup& group) {
                return same_clock(group.clock(), channel.clock);
            });
            if (same == groups_.end())
                groups_.push_back({{&channel}});
            else
                same->channels.push_back(&channel);
        }
    }

    Result<void> write(const std::filesystem::path& file, const JobContext& job) {
        cut_into_slices();
        lay_out();
        auto target = OutputFile::begin(file);
        if (!target) return pass_on(target.error());
        std::FILE* out = std::fopen(target->part().c_str(), "wbx");
        if (out == nullptr) return pass_on(io_error("write the file", file, errno));
        const auto give_up = [&](Error error) -> tl::unexpected<Error> {
            std::fclose(out);
            return pass_on(std::move(error));
        };
        // The data first: the places of compressed blocks are known only then. Links are filled in at the end.
        std::string& head = layout_.bytes();
        while (head.size() % 8 != 0) head += '\0';
        if (std::fwrite(head.data(), 1, head.size(), out) != head.size())
            return give_up(io_error("write the file", file, errno));
        std::uint64_t at = head.size();
        for (std::size_t i = 0; i < slices_.size(); ++i) {
            if (job.stopped()) return give_up({ErrorCode::cancelled, "Cancelled; nothing was kept.", file.string()});
            const Slice& slice = slices_[i];
            const ClockGroup& group = groups_[slice.group];
            const std::string block =
                data_block(group.records(slice.from, slice.to), group.record_size(), options_.compress);
            if (std::fwrite(block.data(), 1, block.size(), out) != block.size())
                return give_up(io_error("write the file", file, errno));
            layout_.set_link(lists_[slice.group], 1 + slice.part, at);
            at += block.size();
            job.report(static_cast<double>(i + 1) / static_cast<double>(slices_.size()));
        }
        if (std::fseek(out, 0, SEEK_SET) != 0 || std::fwrite(head.data(), 1, head.size(), out) != head.size())
            return give_up(io_error("write the file", file, errno));
        if (std::fclose(out) != 0) return pass_on(io_error("write the file", file, errno));
        return target->finish();
    }

  private:
    void cut_into_slices() {
        parts_.assign(groups_.size(), 0);
        const Interval span = recording_.span_s();
        const double step = options_.slice_s > 0 ? options_.slice_s : span.length() + 1;
        std::vector<std::size_t> at(groups_.size(), 0);
        for (int k = 1; static_cast<double>(k - 1) * step <= span.length(); ++k) {
            for (std::size_t g = 0; g < groups_.size(); ++g) {
                const SampleClock& clock = groups_[g].clock();
                // A block of a few megabytes at most, so that readers need little memory.
                const std::size_t end = clock.first_at_or_after(span.begin + static_cast<double>(k) * step);
                const std::size_t most =
                    options_.compress ? std::max<std::size_t>(1, (4U << 20) / groups_[g].record_size()) : end;
                while (at[g] < end) {
                    const std::size_t to = std::min(end, at[g] + most);
                    slices_.push_back({g, parts_[g]++, at[g], to});
                    at[g] = to;
                }
            }
        }
    }

    void lay_out() {
        std::string& bytes = layout_.bytes();
        bytes = "MDF     4.10    Rendak  ";
        bytes.resize(28, '\0');
        put<std::uint16_t>(bytes, 410);
        bytes.resize(64, '\0');
        std::string head;
        put<std::uint64_t>(head, recording_.start_unix_s && *recording_.start_unix_s > 0
                                     ? static_cast<std::uint64_t>(std::llround(*recording_.start_unix_s * 1e6)) * 1000
                                     : 0);
        put<std::uint32_t>(head, 0);
        put<std::uint32_t>(head, 0);
        put<double>(head, 0);
        put<double>(head, 0);
        const auto hd = layout_.add("HD", {0, 0, 0, 0, 0, 0}, head);
        std::string history;
        put<std::uint64_t>(history, 0);
        put<std::uint64_t>(history, 0);
        const auto tool = layout_.text(
            "<FHcomment><TX>written</TX><tool_id>" + escaped(recording_.logger.empty() ? "Rendak" : recording_.logger) +
                "</tool_id><tool_vendor>Rendak</tool_vendor><tool_version>1</tool_version></FHcomment>",
            "MD");
        layout_.set_link(hd, 1, layout_.add("FH", {0, tool}, history));
        std::uint64_t before = hd;
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            const std::string data(8, '\0');
            const auto dg = layout_.add("DG", {0, 0, 0, 0}, data);
            layout_.set_link(before, 0, dg);
            before = dg;
            add_group(groups_[g], dg, g);
        }
    }

    static std::string escaped(const std::string& text) {
        std::string out;
        for (const char c : text) out += c == '<' || c == '>' || c == '&' ? ' ' : c;
        return out;
    }

    void add_group(const ClockGroup& group, std::uint64_t dg, std::size_t g) {
        std::string data;
        put<std::uint64_t>(data, 0);
        put<std::uint64_t>(data, group.clock().size);
        put<std::uint64_t>(data, 0);
        put(data, static_cast<std::uint32_t>(group.record_size()));
        put<std::uint32_t>(data, 0);
        const auto cg = layout_.add("CG", {0, 0, 0, 0, 0, 0}, data);
        layout_.set_link(dg, 1, cg);
        const auto time_name = layout_.text("time"), second = layout_.text("s");
        auto last = layout_.add("CN", {0, 0, time_name, 0, 0, 0, second, 0}, channel_data(2, 1, 4, 0, 64));
        layout_.set_link(cg, 1, last);
        std::uint32_t offset = 8;
        for (const Channel* channel : group.channels) {
            const auto name = layout_.text(channel->name), unit = layout_.text(channel->unit);
            const std::uint32_t bits = channel->is_double() ? 64 : 32;
            const auto cn = layout_.add("CN", {0, 0, name, 0, 0, 0, unit, 0}, channel_data(0, 0, 4, offset, bits));
            layout_.set_link(last, 0, cn);
            last = cn;
            offset += bits / 8;
        }
        std::string list;
        put<std::uint32_t>(list, 0);
        put(list, static_cast<std::uint32_t>(parts_[g]));
        std::uint64_t start = 0;
        for (const Slice& slice : slices_) {
            if (slice.group != g) continue;
            put(list, start);
            start += (slice.to - slice.from) * group.record_size();
        }
        const auto dl = layout_.add("DL", std::vector<std::uint64_t>(1 + parts_[g], 0), list);
        lists_.push_back(dl);
        std::uint64_t data_link = dl;
        if (options_.compress) {
            std::string hl;
            put<std::uint16_t>(hl, 0);
            put<std::uint8_t>(hl, 1);
            hl.resize(8, '\0');
            data_link = layout_.add("HL", {dl}, hl);
        }
        layout_.set_link(dg, 2, data_link);
    }

    const Recording& recording_;
    MdfWriteOptions options_;
    std::vector<ClockGroup> groups_;
    std::vector<std::size_t> parts_;
    std::vector<Slice> slices_;
    std::vector<std::uint64_t> lists_;
    Layout layout_;
};

}  // namespace

Result<void> write_mdf(const Recording& recording, const std::filesystem::path& file, const MdfWriteOptions& options,
                       const JobContext& job) {
    return MdfWriter(recording, options).write(file, job);
}

}  // namespace rendak
