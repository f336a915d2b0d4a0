#include "core/recording/table_text.h"

#include <algorithm>

#include "core/recording/reader_process.h"
#include "core/recording/recording_file.h"

namespace rendak {
namespace {

enum class Utf16 { none, little, big };

/// By its mark, or by every second byte being zero as in text of Western letters.
Utf16 utf16_of(std::string_view text) {
    if (text.starts_with("\xFF\xFE")) return Utf16::little;
    if (text.starts_with("\xFE\xFF")) return Utf16::big;
    const auto head = text.substr(0, 512);
    if (head.size() < 16) return Utf16::none;
    std::size_t even = 0, odd = 0;
    for (std::size_t i = 0; i < head.size(); ++i) (i % 2 == 0 ? even : odd) += head[i] == '\0';
    const std::size_t half = head.size() / 2;
    if (odd * 10 >= half * 9 && even == 0) return Utf16::little;
    if (even * 10 >= half * 9 && odd == 0) return Utf16::big;
    return Utf16::none;
}

std::string turned(std::string_view text, Utf16 order) {
    std::string out;
    out.reserve(text.size() / 2 + 16);
    std::uint32_t high = 0;
    for (std::size_t i = 0; i + 1 < text.size(); i += 2) {
        const auto first = static_cast<unsigned char>(text[i]), second = static_cast<unsigned char>(text[i + 1]);
        std::uint32_t code = order == Utf16::little ? first | second << 8U : second | first << 8U;
        if (code == 0xFEFF) continue;
        if (code >= 0xD800 && code < 0xDC00) {
            high = code;
            continue;
        }
        if (code >= 0xDC00 && code < 0xE000)
            code = high == 0 ? 0xFFFD : 0x10000 + ((high - 0xD800) << 10U) + (code - 0xDC00);
        high = 0;
        const auto put = [&](std::uint32_t byte) { out += static_cast<char>(byte); };
        if (code < 0x80) {
            put(code);
        } else if (code < 0x800) {
            put(0xC0 | code >> 6U);
            put(0x80 | (code & 0x3FU));
        } else if (code < 0x10000) {
            put(0xE0 | code >> 12U);
            put(0x80 | (code >> 6U & 0x3FU));
            put(0x80 | (code & 0x3FU));
        } else {
            put(0xF0 | code >> 18U);
            put(0x80 | (code >> 12U & 0x3FU));
            put(0x80 | (code >> 6U & 0x3FU));
            put(0x80 | (code & 0x3FU));
        }
    }
    return out;
}

}  // namespace

Result<TableText> TableText::open(const std::filesystem::path& file, std::uint64_t most_rows, const JobContext& job) {
    const auto opened = open_regular(file);
    if (!opened) return pass_on(opened.error());
    auto mapping = MappedFile::of(*opened, file);
    if (!mapping) return pass_on(mapping.error());
    TableText out;
    out.mapping_ = std::move(*mapping);
    if (looks_like_hdf5(out.mapping_->text().substr(0, 4096))) {
        const WantedOfFile table{WantedOfFile::What::table, most_rows};
        auto read = read_in_process(*opened, out.mapping_->size(), file, table, job);
        if (!read) return pass_on(read.error());
        out.laid_out_ = std::move(read->handover);
        out.from_ = read->recording.table_offset;
        out.size_ = read->recording.table_size;
        out.notes_ = std::move(read->recording.notes);
        return out;
    }
    const Utf16 order = utf16_of(out.mapping_->text());
    if (order != Utf16::none) {
        if (out.mapping_->text().size() > memory_for_one_file() / 8)
            return fail(ErrorCode::bad_input,
                        "The UTF-16 text is larger than the memory that is to be had. Save it as UTF-8.",
                        file.string());
        out.turned_ = turned(out.mapping_->text(), order);
    }
    return out;
}

}  // namespace rendak
