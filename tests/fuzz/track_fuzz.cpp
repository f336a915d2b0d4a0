#include "core/track/track.h"

#include <cmath>
#include <cstdio>

#include "tests/fuzz/fuzz.h"

/// A track file from anywhere: what is taken can be written and taken again.
int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    const auto track = rendak::track_from_geojson(text, "fuzz");
    if (!track) return 0;
    const std::string again = rendak::track_to_geojson(*track);
    (void)rendak::track_from_geojson(again, "again");
    (void)track->position_at(17);
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    std::string line;
    for (int i = 0; i <= 24; ++i) {
        const double angle = 2 * 3.14159265358979 * (i % 24) / 24;
        char pair[80];
        std::snprintf(pair, sizeof pair, "%s[%.7f,%.7f]", i > 0 ? "," : "", 4 + 0.0036 * std::cos(angle),
                      57 + 0.002 * std::sin(angle));
        line += pair;
    }
    return {
        R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"role":"centreline","name":"R",)"
        R"("length_m":1390},"geometry":{"type":"LineString","coordinates":[)" +
        line +
        R"(]}},{"type":"Feature","properties":{"role":"start"},"geometry":{"type":"LineString","coordinates":)"
        R"([[4.0030,57.0],[4.0040,57.0]]}},{"type":"Feature","properties":{"role":"corner","number":1,"start_m":10,)"
        R"("apex_m":50,"end_m":90,"left":true},"geometry":{"type":"Point","coordinates":[4,57]}},)"
        R"({"type":"Feature","properties":{"role":"left edge","source":"slow laps"},"geometry":{"type":"LineString",)"
        R"("coordinates":[[4.003,57],[4,57.003]]}},{"type":"Feature","properties":{"role":"right edge"},"geometry":)"
        R"({"type":"LineString","coordinates":[[4.004,57],[4,57.001]]}}]})"};
}
