#include "core/recording/gpx.h"
#include "tests/fuzz/fuzz.h"

int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (const auto read = rendak::read_gpx(rendak::fuzz::as_file(data, size)))
        (void)rendak::content_digest(read->recording);
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    return {
        "<?xml version=\"1.0\"?><gpx version=\"1.1\" creator=\"x\"><trk><trkseg>"
        "<trkpt lat=\"57.1\" lon=\"4.2\"><ele>3</ele><time>2026-06-13T07:00:00Z</time></trkpt>"
        "<trkpt lat=\"57.2\" "
        "lon=\"4.3\"><time>2026-06-13T07:00:01.5Z</time><extensions><a:speed>3</a:speed></extensions></trkpt>"
        "<trkpt lat=\"57.3\" lon=\"4.4\"><time>2026-06-13T07:00:02Z</time></trkpt></trkseg></trk></gpx>"};
}
