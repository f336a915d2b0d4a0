#include "core/recording/handover.h"

#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <type_traits>

namespace rendak {
namespace {

constexpr char magic[] = "RDKHAND1";
constexpr std::uint64_t most_channels = 10'000, longest_text = 1U << 20;

class Pack {
  public:
    template <class T>
    void number(T value) {
        static_assert(std::is_trivially_copyable_v<T>);
        bytes_.append(reinterpret_cast<const char*>(&value), sizeof value);
    }
    void text(const std::string& value) {
        number(static_cast<std::uint64_t>(value.size()));
        bytes_ += value;
    }
    void place(const HandedPlace& value) {
        number(static_cast<std::uint8_t>(value.in));
        number(value.bytes_each);
        number(value.offset);
        number(value.count);
    }
    [[nodiscard]] const std::string& bytes() const { return bytes_; }

  private:
    std::string bytes_;
};

/// Beyond the end, or with a text too long, everything is zero and ok() is false.
class Unpack {
  public:
    explicit Unpack(std::string_view bytes) : bytes_(bytes) {}
    template <class T>
    T number() {
        T value{};
        if (bytes_.size() < sizeof value) {
            ok_ = false;
            return value;
        }
        std::memcpy(&value, bytes_.data(), sizeof value);
        bytes_.remove_prefix(sizeof value);
        return value;
    }
    std::string text() {
        const auto size = number<std::uint64_t>();
        if (size > bytes_.size() || size > longest_text) {
            ok_ = false;
            return {};
        }
        std::string out(bytes_.substr(0, size));
        bytes_.remove_prefix(size);
        return out;
    }
    HandedPlace place() {
        HandedPlace out;
        const auto in = number<std::uint8_t>();
        out.in = static_cast<HandedPlace::In>(in);
        out.bytes_each = number<std::uint8_t>();
        out.offset = number<std::uint64_t>();
        out.count = number<std::uint64_t>();
        if (in > 2 || (out.bytes_each != 4 && out.bytes_each != 8)) ok_ = false;
        return out;
    }
    [[nodiscard]] bool ok() const { return ok_; }

  private:
    std::string_view bytes_;
    bool ok_ = true;
};

struct Head {
    char magic[8];
    std::uint64_t offset, size;
};

}  // namespace

std::optional<HandedPlace> HandoverWriter::reserve(std::uint64_t count, std::uint8_t bytes_each) {
    if (count > most_ / bytes_each || at_ + count * bytes_each > most_) return std::nullopt;
    const HandedPlace out{HandedPlace::In::handover, bytes_each, at_, count};
    at_ = (at_ + count * bytes_each + 63) / 64 * 64;
    return out;
}

bool HandoverWriter::put(std::uint64_t offset, const void* data, std::size_t size) {
    const auto* bytes = static_cast<const char*>(data);
    while (size > 0) {
        const ssize_t n = ::pwrite(fd_, bytes, size, static_cast<off_t>(offset));
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return false;
        bytes += n;
        offset += static_cast<std::uint64_t>(n);
        size -= static_cast<std::size_t>(n);
    }
    return true;
}

bool HandoverWriter::put_text(std::string_view text) {
    if (text.size() > most_ || at_ > most_ - text.size()) return false;
    if (table_size_ == 0) table_offset_ = at_;
    if (!put(at_, text.data(), text.size())) return false;
    at_ += text.size();
    table_size_ += text.size();
    return true;
}

bool HandoverWriter::finish(const Result<HandedRecording>& what) {
    Pack out;
    out.number(static_cast<std::uint8_t>(what.has_value()));
    if (!what) {
        out.number(static_cast<std::uint8_t>(what.error().code));
        out.text(what.error().message);
    } else {
        out.text(what->source_name);
        out.text(what->logger);
        out.text(what->digest);
        out.number(static_cast<std::uint8_t>(what->start_unix_s.has_value()));
        out.number(what->start_unix_s.value_or(0));
        out.number(static_cast<std::uint64_t>(what->channels.size()));
        for (const HandedChannel& channel : what->channels) {
            for (const auto* text : {&channel.name, &channel.quantity, &channel.unit, &channel.source_unit})
                out.text(*text);
            out.number(channel.rate_hz);
            out.number(channel.start_s);
            for (const auto* place : {&channel.samples, &channel.times_s, &channel.overview}) out.place(*place);
        }
        out.number(static_cast<std::uint8_t>(what->of_others));
        out.number(table_offset_);
        out.number(table_size_);
        out.number(static_cast<std::uint64_t>(what->notes.size()));
        for (const std::string& note : what->notes) out.text(note);
    }
    Head head{{}, at_, out.bytes().size()};
    std::memcpy(head.magic, magic, 8);
    return put(at_, out.bytes().data(), out.bytes().size()) && put(0, &head, sizeof head);
}

Result<HandedRecording> read_handover(std::string_view bytes, const std::string& shown_name) {
    const auto unusable = [&] {
        return fail(ErrorCode::bad_input,
                    "The recording is damaged or cut off (it could not be read to its end). Copy it again from where "
                    "it came from; what is in the library is not touched.",
                    shown_name);
    };
    Head head{};
    if (bytes.size() < sizeof head) return unusable();
    std::memcpy(&head, bytes.data(), sizeof head);
    if (std::memcmp(head.magic, magic, 8) != 0 || head.offset > bytes.size() || head.size > bytes.size() - head.offset)
        return unusable();
    Unpack in(bytes.substr(head.offset, head.size));
    if (in.number<std::uint8_t>() == 0) {
        const auto code = in.number<std::uint8_t>();
        std::string message = in.text();
        if (!in.ok() || code > static_cast<std::uint8_t>(ErrorCode::cancelled)) return unusable();
        return fail(static_cast<ErrorCode>(code), std::move(message), shown_name);
    }
    HandedRecording out;
    out.source_name = in.text();
    out.logger = in.text();
    out.digest = in.text();
    const bool has_start = in.number<std::uint8_t>() != 0;
    if (const auto start = in.number<double>(); has_start) out.start_unix_s = start;
    const auto count = in.number<std::uint64_t>();
    if (!in.ok() || count > most_channels) return unusable();
    for (std::uint64_t i = 0; i < count && in.ok(); ++i) {
        HandedChannel channel;
        for (auto* text : {&channel.name, &channel.quantity, &channel.unit, &channel.source_unit}) *text = in.text();
        channel.rate_hz = in.number<double>();
        channel.start_s = in.number<double>();
        for (auto* place : {&channel.samples, &channel.times_s, &channel.overview}) *place = in.place();
        out.channels.push_back(std::move(channel));
    }
    out.of_others = in.number<std::uint8_t>() != 0;
    out.table_offset = in.number<std::uint64_t>();
    out.table_size = in.number<std::uint64_t>();
    const auto notes = in.number<std::uint64_t>();
    for (std::uint64_t i = 0; i < notes && in.ok(); ++i) out.notes.push_back(in.text());
    if (!in.ok() || out.table_offset > bytes.size() || out.table_size > bytes.size() - out.table_offset)
        return unusable();
    return out;
}

}  // namespace rendak
