#include "core/recording/mdf.h"
#include "tests/fuzz/fuzz.h"
#include "tests/support/mdf_builder.h"

int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (const auto read = rendak::read_mdf(rendak::fuzz::as_file(data, size)))
        (void)rendak::content_digest(read->recording);
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    using namespace rendak::test;
    std::vector<std::string> out;
    for (int kind = 0; kind < 4; ++kind) {
        MdfBuilder file;
        std::string records;
        for (int i = 0; i < 12; ++i)
            records += raw(0.1 * i) + raw(static_cast<float>(i)) + raw(static_cast<std::uint8_t>(i));
        const auto conversion =
            file.conversion(static_cast<std::uint8_t>(kind == 3 ? 7 : 1), {-40, 0.5}, {file.text("a"), file.text("b")});
        file.channel({.name = "t", .type = 2, .sync = 1, .bits = 64, .unit = "s"});
        file.channel({.name = "Speed", .byte_offset = 8, .bits = 32, .flags = 2, .unit = "km/h"});
        file.channel(
            {.name = "Bits", .data_type = 2, .bit_offset = 3, .byte_offset = 11, .bits = 9, .conversion = conversion});
        const auto first = file.channels();
        std::uint64_t data = 0;
        if (kind == 0) data = file.block("DT", {}, records);
        if (kind == 1)
            data = file.list({file.block("DT", {}, records.substr(0, 50)), file.packed(records.substr(50), 0, 0)});
        if (kind == 2) data = file.block("HL", {file.list({file.packed(records, 1, 13)})}, std::string(8, '\0'));
        if (kind == 3) data = file.packed(records, 1, 13);
        file.group(first, data, 12, 12, 1);
        out.push_back(file.bytes());
    }
    return out;
}
