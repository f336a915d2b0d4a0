#include "core/bundle/bundle.h"

#include <unistd.h>

#include <cstdlib>
#include <fstream>

#include "core/bundle/bundle_json.h"
#include "core/bundle/zip_file.h"
#include "tests/fuzz/fuzz.h"

namespace {

const std::filesystem::path& folder() {
    static const auto made = std::filesystem::temp_directory_path() / ("fuzz-bundle-" + std::to_string(::getpid()));
    return made;
}

rendak::Library& library() {
    static const auto opened = [] {
        auto out = rendak::Library::open(folder());
        if (!out) std::abort();
        std::atexit([] { std::filesystem::remove_all(folder()); });
        return std::move(*out);
    }();
    return *opened;
}

}  // namespace

// The zip as it comes, and its bundle.json alone, which changed bytes inside a zip would hardly reach.
int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto file = rendak::fuzz::as_file(data, size);
    (void)rendak::preview_bundle(library(), file);
    if (const auto json = rendak::bundle_from_json(std::string(reinterpret_cast<const char*>(data), size), "fuzz"))
        (void)rendak::to_json(*json);
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    rendak::BundleJson json;
    rendak::BundleRun run;
    run.facts.name = "Run 1";
    run.digest = std::string(32, 'a');
    run.window_s = rendak::Interval{1, 2};
    run.laps = {{1, rendak::LapKind::flying, 1, 2, 3, true, true, "by hand"}};
    json.runs = {run};
    json.tracks = {{"Oval", "tracks/1.geojson", 900}};
    json.setups = {{{}, "27", "Base", 1, 0, "", {{"Wing", "5", "°"}}}};
    json.car_sheets = {{"27", "2026", "", {{"mass", "775", "kg"}}}};
    json.aliases = {{"pbrk", "brake_front"}};
    const std::string text = rendak::to_json(json);
    const auto file = folder().string() + ".zip";
    std::string bytes;
    if (rendak::write_zip({{"bundle.json", text, {}},
                           {"tracks/1.geojson", "{}", {}},
                           {"recordings/" + run.digest + ".rdk.h5", "x", {}}},
                          file, {})) {
        std::ifstream stream(file, std::ios::binary);
        bytes.assign(std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>());
        std::filesystem::remove(file);
    }
    return {text, bytes};
}
