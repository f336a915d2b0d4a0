// How often findings are right: random circuits and drives with one fault each (tests/support/made_faults.h), with all
// sensors and with a receiver alone.
//
//   finding_score [WORLDS] [FIRST]      default 12 worlds from 1001 on
#include <cmath>
#include <cstdio>
#include <cstdlib>

#include "tests/support/made_faults.h"

namespace {

void print(const char* head, const rendak::test::FindingScore& score) {
    std::printf("%s: %d of %d faults worth over 0.05 s named with corner and kind; of %d named %d at a wrong place\n",
                head, score.named(), score.faults(), score.told(), score.wrong());
    for (const auto& [kind, it] : score.kinds) {
        double off = 0;
        for (const double size : it.sizes) off += std::abs(size - 1) / static_cast<double>(it.sizes.size());
        std::printf("  %-14s %3d of %3d named, %3d of %3d told at a wrong place", kind.c_str(), it.named, it.faults,
                    it.wrong, it.told);
        if (!it.sizes.empty()) std::printf(", sizes %.0f %% off in the mean", 100 * off);
        std::printf("\n");
    }
    for (const std::string& miss : score.misses) std::printf("    %s\n", miss.c_str());
}

}  // namespace

int main(int count, char** arguments) {
    const int worlds = count > 1 ? std::atoi(arguments[1]) : 12;
    const auto first = static_cast<unsigned>(count > 2 ? std::atoi(arguments[2]) : 1001);
    print("All sensors", rendak::test::score_findings(first, worlds, false));
    print("A receiver alone", rendak::test::score_findings(first, worlds, true));
    return 0;
}
