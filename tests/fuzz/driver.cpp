// Changes good files at random and hands them to the target, for some seconds: FUZZ_SECONDS (default 4). The input that
// is being tried is kept, so that a crash leaves it behind: tests/fuzz/README.md.
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <iostream>
#include <random>

#include "tests/fuzz/fuzz.h"

namespace {

std::string changed(std::string text, const std::vector<std::string>& corpus, std::mt19937_64& random) {
    const auto below = [&](std::size_t n) { return n == 0 ? 0 : static_cast<std::size_t>(random() % n); };
    const std::size_t changes = 1 + below(6);
    for (std::size_t k = 0; k < changes; ++k) {
        const std::size_t at = below(text.size() + 1);
        switch (below(9)) {
            case 0:
                if (at < text.size()) text[at] = static_cast<char>(text[at] ^ (1 << below(8)));
                break;
            case 1:
                if (at < text.size()) text[at] = static_cast<char>(random());
                break;
            case 2:
                text.erase(at, below(40));
                break;
            case 3:
                text.insert(at, text.substr(below(text.size() + 1), below(60)));
                break;
            case 4:
                text.resize(at);
                break;
            case 5: {  // a number that parsers stumble over
                const std::uint64_t odd[] = {0, ~0ULL, 1ULL << 63, 0x7fffffffULL, 1ULL << 32, 24, 64};
                const std::uint64_t value = odd[below(7)];
                for (std::size_t b = 0; b < 8 && at + b < text.size(); ++b)
                    text[at + b] = static_cast<char>(value >> (8 * b));
                break;
            }
            case 6: {
                const char* words[] = {"nan", "inf", "-1e308", "\"",  "1e999",  "\n",
                                       ";",   ",",   "<trkpt", "../", "\\u0000"};
                text.insert(at, words[below(11)]);
                break;
            }
            case 7: {
                const std::string& other = corpus[below(corpus.size())];
                text = text.substr(0, at) + other.substr(below(other.size() + 1));
                break;
            }
            default:
                if (text.size() > 8) std::swap(text[below(text.size())], text[below(text.size())]);
        }
    }
    return text.substr(0, 1U << 16);
}

}  // namespace

int main(int count, char** arguments) {
    std::vector<std::string> corpus = rendak::fuzz::seeds();
    // FUZZ_WRITE=DIR keeps the seeds as files, to begin a corpus with.
    if (const char* folder = std::getenv("FUZZ_WRITE")) {
        for (std::size_t i = 0; i < corpus.size(); ++i)
            std::ofstream(std::filesystem::path(folder) / ("seed-" + std::to_string(i)), std::ios::binary) << corpus[i];
        return 0;
    }
    for (int i = 1; i < count; ++i) {
        if (!std::filesystem::exists(arguments[i])) continue;
        for (const auto& entry : std::filesystem::recursive_directory_iterator(arguments[i])) {
            if (!entry.is_regular_file()) continue;
            std::ifstream file(entry.path(), std::ios::binary);
            corpus.emplace_back(std::istreambuf_iterator<char>(file), std::istreambuf_iterator<char>());
        }
    }
    const auto try_it = [](const std::string& text) {
        LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(text.data()), text.size());
    };
    for (const std::string& text : corpus) try_it(text);
    const char* wanted = std::getenv("FUZZ_SECONDS");
    const double seconds = wanted == nullptr ? 4 : std::atof(wanted);
    const char* seed = std::getenv("FUZZ_SEED");
    std::mt19937_64 random(seed == nullptr ? 20261123 : std::strtoull(seed, nullptr, 10));
    const auto begin = std::chrono::steady_clock::now();
    std::size_t tried = 0;
    for (; std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count() < seconds; ++tried) {
        try_it(changed(corpus[random() % corpus.size()], corpus, random));
    }
    std::cout << corpus.size() << " files of the corpus and " << tried << " changed ones\n";
    return 0;
}
