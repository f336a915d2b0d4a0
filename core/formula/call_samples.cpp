#include "core/formula/call_samples.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/formula/evaluator.h"

namespace rendak::formula {

int CallSamples::at(std::size_t k) const {
    return evaluator_.argument(call_, k);
}
Part CallSamples::whole() const {
    return {0, clock().size};
}
bool CallSamples::has(std::size_t k) const {
    return at(k) >= 0;
}
double CallSamples::constant(std::size_t k, double otherwise) const {
    return evaluator_.constant_of(call_, k, otherwise);
}
std::string CallSamples::word(std::size_t k) const {
    if (!has(k) || evaluator_.node(at(k)).kind != Node::Kind::name) return {};
    const std::string& text = evaluator_.node(at(k)).text;
    return text == "lap" || text == "run" ? text : std::string{};
}
bool CallSamples::steps(std::size_t k) const {
    return evaluator_.steps(at(k));
}
const RunView& CallSamples::run() const {
    return evaluator_.run_;
}
const SampleClock& CallSamples::clock() const {
    return evaluator_.clock_;
}
SampleClock CallSamples::clock_of(Part part) const {
    return evaluator_.clock_of(part);
}
std::vector<float> CallSamples::array(std::size_t k, Part part) {
    return evaluator_.array(at(k), part);
}
bool CallSamples::failed() const {
    return evaluator_.problem_.has_value();
}
std::vector<float> CallSamples::wrong(std::size_t k, std::string sentence) {
    evaluator_.wrong(at(k), std::move(sentence));
    return {};
}
std::vector<float> CallSamples::wrong_call(std::string sentence) {
    evaluator_.wrong(call_, std::move(sentence));
    return {};
}

std::vector<Stretch> CallSamples::stretches(std::size_t per) {
    if (word(per) == "run") return {{0, clock().size, run().span_s.begin, run().span_s.end, nullptr}};
    if (run().laps.empty()) {
        wrong_call("This run has no laps, so it has no figures of a lap. Give it a track, or ask for per=run.");
        return {};
    }
    auto all = stretches_of(run().laps, clock());
    std::erase_if(all, [&](const Stretch& one) { return one.to <= part_.from || one.from >= part_.to; });
    return all;
}

Part CallSamples::covering(const std::vector<Stretch>& stretches) const {
    return stretches.empty() ? part_ : Part{stretches.front().from, stretches.back().to};
}

Part CallSamples::wider(Part part, double seconds, std::size_t more) const {
    const SampleClock& clock = this->clock();
    const std::size_t extra = static_cast<std::size_t>(std::ceil(std::min(seconds * rate_hz(), 1e9))) + more;
    if (clock.times_s.empty()) return {part.from - std::min(part.from, extra), std::min(clock.size, part.to + extra)};
    // Uneven clocks: by time.
    if (part.size() == 0) return part;
    const double begin = clock.time_at(part.from) - seconds, end = clock.time_at(part.to - 1) + seconds;
    const std::size_t from = clock.first_at_or_after(begin), to = clock.first_at_or_after(end);
    return {from - std::min(from, more), std::min(clock.size, to + 1 + more)};
}

std::vector<float> CallSamples::cut(std::vector<float> all, Part computed) const {
    if (computed.from == part_.from && computed.to == part_.to) return all;
    if (computed.from <= part_.from && computed.to >= part_.to) {
        all.resize(part_.to - computed.from);
        all.erase(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(part_.from - computed.from));
        return all;
    }
    std::vector<float> out(part_.size(), std::numeric_limits<float>::quiet_NaN());
    for (std::size_t k = std::max(part_.from, computed.from); k < std::min(part_.to, computed.to); ++k)
        out[k - part_.from] = all[k - computed.from];
    return out;
}

std::vector<Stretch> moved(std::vector<Stretch> stretches, std::size_t back) {
    for (Stretch& one : stretches) {
        one.from -= back;
        one.to -= back;
    }
    return stretches;
}

}  // namespace rendak::formula
