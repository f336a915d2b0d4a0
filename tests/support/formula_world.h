#pragma once

#include <map>
#include <vector>

#include "core/formula/evaluate.h"
#include "core/units/compound_unit.h"

namespace rendak::test {

/// A run without a car: a few channels made by hand, laps given by their times.
class FormulaWorld {
  public:
    void add(const std::string& name, const std::string& unit, std::vector<float> samples, double rate_hz,
             double start_s = 0, bool is_state = false) {
        ChannelStorage storage;
        storage.floats.assign(samples.begin(), samples.end());
        Channel channel = make_channel(name, {}, unit, std::move(storage), start_s, rate_hz);
        channel.is_state = is_state;
        channels_[name] = std::move(channel);
    }
    void add_uneven(const std::string& name, const std::string& unit, std::vector<float> samples,
                    std::vector<double> times_s) {
        ChannelStorage storage;
        storage.floats.assign(samples.begin(), samples.end());
        storage.times_s.assign(times_s.begin(), times_s.end());
        channels_[name] = make_channel(name, {}, unit, std::move(storage));
    }
    void add_constant(const std::string& name, double value, const std::string& unit) {
        constants_[name] = {value, unit};
    }
    void add_lap(double start_s, double end_s) {
        view.laps.push_back({static_cast<int>(view.laps.size()) + 1, start_s, end_s, nullptr});
    }

    [[nodiscard]] formula::Names names() const {
        formula::Names out;
        out.find = [this](const std::string& name) -> tl::expected<formula::Named, formula::NotNamed> {
            formula::Named named;
            named.id = name;
            if (const auto constant = constants_.find(name); constant != constants_.end()) {
                const auto unit = *parse_compound_unit(constant->second.second);
                named.kind = formula::Named::Kind::constant;
                named.type = formula::type_of(unit);
                named.value = unit.to_si(constant->second.first);
                return named;
            }
            if (name.starts_with("car."))
                return tl::unexpected(formula::NotNamed{false, "The car sheet has no " + name.substr(4) + "."});
            const auto channel = channels_.find(name);
            if (channel == channels_.end()) return tl::unexpected(formula::NotNamed{});
            named.type = formula::type_of(*parse_compound_unit(channel->second.unit));
            if (channel->second.unit == "K") named.type.weight = 1;
            named.is_state = channel->second.is_state;
            return named;
        };
        out.all = [this] {
            std::vector<std::string> all;
            for (const auto& [name, channel] : channels_) all.push_back(name);
            return all;
        };
        return out;
    }
    [[nodiscard]] formula::Checked<formula::CheckedFormula> check(std::string_view text,
                                                                  std::string_view unit = {}) const {
        return formula::check(text, names(), unit);
    }
    [[nodiscard]] formula::Checked<Channel> evaluate(std::string_view text, const formula::Evaluation& options = {}) {
        auto checked = check(text);
        if (!checked) return tl::unexpected(checked.error());
        view.channel = [this](const std::string& id) -> tl::expected<const Channel*, std::string> {
            const auto found = channels_.find(id);
            if (found == channels_.end()) return tl::unexpected("There is no " + id + ".");
            return &found->second;
        };
        for (const auto& [name, channel] : channels_) {
            const Interval span = channel.clock.span_s();
            view.span_s = view.span_s.empty()
                              ? span
                              : Interval{std::min(view.span_s.begin, span.begin), std::max(view.span_s.end, span.end)};
        }
        return formula::evaluate(*checked, view, options);
    }
    /// All samples; the problem's sentence fails the caller.
    [[nodiscard]] std::vector<double> values(std::string_view text, const formula::Evaluation& options = {}) {
        const auto channel = evaluate(text, options);
        if (!channel) throw std::runtime_error(std::string(text) + ": " + channel.error().sentence);
        std::vector<double> out;
        for (std::size_t i = 0; i < channel->size(); ++i) out.push_back(channel->at(i));
        return out;
    }
    /// The sentence of what is wrong; "" when nothing is.
    [[nodiscard]] std::string sentence(std::string_view text, std::string_view unit = {}) const {
        const auto checked = check(text, unit);
        return checked ? "" : checked.error().sentence;
    }

    formula::RunView view;

  private:
    std::map<std::string, Channel> channels_;
    std::map<std::string, std::pair<double, std::string>> constants_;
};

}  // namespace rendak::test
