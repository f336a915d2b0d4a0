#include "core/recording/mdf_file.h"
#include "core/base/buffer.h"
#include "core/base/mapping_guard.h"

#include <zlib.h>

#include <algorithm>
#include <set>

namespace rendak::mdf {
namespace {

constexpr std::size_t header_size = 24;
/// No list in a real file is longer; a ring of links ends here.
constexpr std::size_t most_links = 1'000'000;
/// Names, units and comments: many channels may point at the same text, so a giant would be copied as often.
constexpr std::size_t longest_mdf_text = 4096;

std::uint64_t read_u64(std::string_view bytes, std::size_t at) {
    std::uint64_t value = 0;
    if (at + 8 <= bytes.size()) std::memcpy(&value, bytes.data() + at, 8);
    return value;
}

Error damaged_mdf(const std::string& what) {
    return {ErrorCode::bad_input, "The MDF file is damaged: " + what + ".", ""};
}

struct Pieces {
    std::vector<Block> blocks;   ///< DT, DV or DZ
    std::vector<Block> invalid;  ///< DI or DZ, of lists that keep them apart
    bool whole = true;
};

bool is_data(const Block& block) {
    return block.id == "DT" || block.id == "DV" || block.id == "DI" || block.id == "SD";
}

/// The data blocks below a link, in order. A link beyond the end of the file ends the list: the file was cut off.
Result<Pieces> pieces_of(const File& file, std::uint64_t place) {
    Pieces out;
    auto first = file.block(place);
    if (!first) {
        out.whole = false;
        return out;
    }
    if (first->id == "HL") {
        place = first->link(0);
        first = file.block(place);
        if (!first) {
            out.whole = false;
            return out;
        }
    }
    if (is_data(*first) || first->id == "DZ") {
        out.whole = first->whole;
        out.blocks.push_back(*first);
        return out;
    }
    std::size_t steps = 0;
    std::set<std::uint64_t> seen{place};
    for (auto list = first; list; list = file.block(place)) {
        const bool apart = list->id == "LD";
        if (list->id != "DL" && !apart)
            return pass_on(damaged_mdf("a data list holds a block \"" + std::string(list->id) + "\""));
        // Behind the links to the values of a list of columns come as many to their invalidation bytes.
        const bool has_invalid = apart && (list->number<std::uint32_t>(0) & 0x80000000U) != 0;
        const std::size_t values = has_invalid ? 1 + (list->links - 1) / 2 : list->links;
        for (std::size_t i = 1; i < list->links; ++i) {
            if (++steps > most_links) return pass_on(damaged_mdf("its data list does not end"));
            // A block that is listed again and again would make a giant of a small file.
            if (list->link(i) != 0 && !seen.insert(list->link(i)).second)
                return pass_on(damaged_mdf("its data list names the same block twice"));
            const auto piece = file.block(list->link(i));
            if (has_invalid && list->link(i) == 0) continue;
            if (!piece || (!is_data(*piece) && piece->id != "DZ")) {
                out.whole = false;
                return out;
            }
            (i < values ? out.blocks : out.invalid).push_back(*piece);
            if (!piece->whole) {
                out.whole = false;
                return out;
            }
        }
        place = list->link(0);
        if (place == 0) return out;
        if (!seen.insert(place).second) return pass_on(damaged_mdf("its data list comes back to itself"));
    }
    out.whole = false;
    return out;
}

/// Inflates a DZ block to the end of `out`; what could be inflated is kept.
bool inflate_block(const Block& block, std::uint64_t most, SpillBuffer<char>& out) {
    const std::string_view kind = block.data.substr(0, std::min<std::size_t>(2, block.data.size()));
    const auto zip_type = block.number<std::uint8_t>(2);
    const auto columns = block.number<std::uint32_t>(4);
    const auto original = block.number<std::uint64_t>(8);
    if ((kind != "DT" && kind != "DV" && kind != "DI") || zip_type > 1 || block.data.size() < 24) return false;
    const std::string_view packed = block.data.substr(24, block.number<std::uint64_t>(16));
    // Deflate never packs better than 1 : 1032.
    if (original > packed.size() * 1032 + 64 || out.size() + original > most) return false;
    if (original == 0) return true;
    Buffer<char> plain(original);
    z_stream stream{};
    if (inflateInit(&stream) != Z_OK) return false;
    stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(packed.data()));
    stream.avail_in = static_cast<uInt>(packed.size());
    stream.next_out = reinterpret_cast<Bytef*>(plain.data());
    stream.avail_out = static_cast<uInt>(original);
    const int code = inflate(&stream, Z_FINISH);
    const std::size_t got = stream.total_out;
    inflateEnd(&stream);
    const bool whole = code == Z_STREAM_END && got == original;
    // Half a transposed block cannot be turned back.
    if (!whole && zip_type == 1) return false;
    // Of a block that is all there and does not fit its own check sum no byte can be trusted.
    if (!whole && block.whole) return false;
    const std::size_t at = out.size();
    out.resize(at + got);
    if (zip_type == 1 && columns > 0)
        untranspose({plain.data(), got}, columns, out.data() + at);
    else
        std::copy_n(plain.data(), got, out.data() + at);
    return whole;
}

}  // namespace

std::uint64_t Block::link(std::size_t i) const {
    return i < links ? read_u64(link_bytes, 8 * i) : 0;
}

std::optional<Block> File::block(std::uint64_t place, std::string_view id) const {
    if (place < 64 || place >= bytes_.size() || bytes_.size() - place < header_size) return std::nullopt;
    const std::string_view head = bytes_.substr(place, header_size);
    if (head.substr(0, 2) != "##") return std::nullopt;
    Block out;
    out.id = head.substr(2, 2);
    if (!id.empty() && out.id != id) return std::nullopt;
    std::uint64_t length = read_u64(head, 8);
    const std::uint64_t links = read_u64(head, 16);
    if (unfinished_ && length <= header_size && links == 0 && is_data(out)) length = length_to_next_block(place);
    if (length < header_size) return std::nullopt;
    const std::uint64_t there = std::min<std::uint64_t>(length, bytes_.size() - place);
    if (links > (there - header_size) / 8) return std::nullopt;
    out.links = links;
    out.whole = there == length;
    out.link_bytes = bytes_.substr(place + header_size, 8 * links);
    out.data = bytes_.substr(place + header_size + 8 * links, there - header_size - 8 * links);
    return out;
}

std::uint64_t File::length_to_next_block(std::uint64_t place) const {
    static constexpr std::string_view ids[] = {"DG", "CG", "CN", "CC", "TX", "MD", "SI", "DT", "DZ", "DL", "HL",
                                               "FH", "DV", "DI", "LD", "SD", "EV", "AT", "CA", "CH", "SR", "RD"};
    for (std::uint64_t at = (place + header_size + 7) / 8 * 8; at + header_size <= bytes_.size(); at += 8) {
        at = bytes_.find("##", at);
        if (at == std::string_view::npos) break;
        const std::string_view head = bytes_.substr(at, std::min<std::size_t>(header_size, bytes_.size() - at));
        if (at % 8 == 0 && head.size() == header_size && head.substr(4, 4) == std::string_view("\0\0\0\0", 4) &&
            std::find(std::begin(ids), std::end(ids), head.substr(2, 2)) != std::end(ids))
            return at - place;
        at = at / 8 * 8;
    }
    return bytes_.size() - place;
}

std::string File::text(std::uint64_t place) const {
    const auto found = block(place);
    if (!found || (found->id != "TX" && found->id != "MD")) return {};
    std::string_view text = found->data.substr(0, std::min(found->data.find('\0'), longest_mdf_text));
    if (found->id == "MD") {
        const auto begin = text.find("<TX");
        const auto open_end = text.find('>', begin == std::string_view::npos ? text.size() : begin);
        const auto end = text.find("</TX>");
        if (begin == std::string_view::npos || open_end == std::string_view::npos || end == std::string_view::npos ||
            end <= open_end)
            return {};
        text = text.substr(open_end + 1, end - open_end - 1);
    }
    return std::string(text);
}

void untranspose(std::string_view columns, std::size_t record, char* rows) {
    const std::size_t count = columns.size() / record;
    for (std::size_t byte = 0; byte < record && count > 0; ++byte) {
        const char* column = columns.data() + byte * count;
        for (std::size_t row = 0; row < count; ++row) rows[row * record + byte] = column[row];
    }
    // What does not fill a whole record follows as it is.
    const std::size_t turned = count * record;
    if (turned < columns.size()) std::memcpy(rows + turned, columns.data() + turned, columns.size() - turned);
}

void transpose(std::string_view rows, std::size_t record, char* columns) {
    const std::size_t count = rows.size() / record;
    for (std::size_t byte = 0; byte < record && count > 0; ++byte) {
        for (std::size_t row = 0; row < count; ++row) columns[byte * count + row] = rows[row * record + byte];
    }
    const std::size_t turned = count * record;
    if (turned < rows.size()) std::memcpy(columns + turned, rows.data() + turned, rows.size() - turned);
}

namespace {

/// Appends all pieces, inflated. False when one of them cannot be inflated; what comes before it is there.
Result<bool> append_pieces(const std::vector<Block>& pieces, std::uint64_t most, const JobContext& job,
                           SpillBuffer<char>& out) {
    std::size_t size = 0;
    for (const Block& piece : pieces) {
        const auto wanted = piece.id == "DZ" ? piece.number<std::uint64_t>(8) : piece.data.size();
        size = std::min<std::size_t>(most, size + std::min<std::uint64_t>(wanted, most));
    }
    out.reserve(size);
    for (const Block& piece : pieces) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.");
        const std::size_t at = out.size();
        if (piece.id == "DZ") {
            if (!inflate_block(piece, most, out)) return false;
        } else {
            if (at + piece.data.size() > most) return pass_on(damaged_mdf("it holds more data than its records need"));
            out.resize(at + piece.data.size());
            std::memcpy(out.data() + at, piece.data.data(), piece.data.size());
        }
        // Of a large file neither stays in this process's memory until its records are looked at.
        let_go(piece.data.data(), piece.data.size());
        let_go(out.data() + at, out.size() - at);
    }
    return true;
}

}  // namespace

Result<Data> collect_data(const File& file, std::uint64_t place, std::size_t record_bytes, std::uint64_t most,
                          const JobContext& job) {
    Data out;
    if (place == 0) return out;
    const auto pieces = pieces_of(file, place);
    if (!pieces) return pass_on(pieces.error());
    out.whole = pieces->whole;
    const std::vector<Block>& blocks = pieces->blocks;
    bool as_they_are = pieces->invalid.empty() && (record_bytes > 0 || blocks.size() == 1);
    for (std::size_t i = 0; i < blocks.size() && as_they_are; ++i)
        as_they_are = is_data(blocks[i]) && (i + 1 == blocks.size() || blocks[i].data.size() % record_bytes == 0);
    if (as_they_are) {
        for (const Block& block : blocks) out.pieces.push_back(block.data);
        return out;
    }
    const auto all = append_pieces(blocks, most, job, out.copied);
    if (!all) return pass_on(all.error());
    const auto invalid = append_pieces(pieces->invalid, most, job, out.copied_invalid);
    if (!invalid) return pass_on(invalid.error());
    // A packed block that the file still holds in full is damaged; else the file ends in it.
    out.damaged = (!*all || !*invalid) && pieces->whole;
    out.whole = out.whole && *all && *invalid;
    out.pieces = {{out.copied.data(), out.copied.size()}};
    out.invalid = {out.copied_invalid.data(), out.copied_invalid.size()};
    return out;
}

}  // namespace rendak::mdf
