#include "app/desks/formulas/preview.h"

#include <QCoreApplication>
#include <QLocale>

#include "app/text/text_of.h"
#include "core/units/compound_unit.h"

namespace rendak::app {
namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("FormulaPreview", text);
}

}  // namespace

FormulaPreview preview_of(const PreviewRequest& request, const std::stop_token& stop) {
    using formula::Formula;
    FormulaPreview out;
    out.slot = request.slot;
    const Formula& formula = request.formula;
    const auto& lap = request.lap;
    formula::Checked<formula::CheckedFormula> checked = [&] {
        if (lap) return lap->run->formulas->check(formula.text, formula.unit, request.saved_as);
        const auto book = formula::book_for(request.sets, {}, {});
        const auto constants = request.sheets.empty()
                                   ? formula::Constants{}
                                   : formula::constants_for(request.sheets, request.sheets.back().car, {});
        formula::Resolver resolver(book, constants, request.aliases, nullptr);
        return formula::check(formula.text, resolver.names(request.saved_as), formula.unit);
    }();
    if (!checked) {
        out.problem = checked.error();
        return out;
    }
    const std::string unit_text = formula.unit.empty() ? formula::usual_unit(checked->type()) : formula.unit;
    const auto unit = parse_compound_unit(unit_text);
    out.how = {text_of(formula.name),
               text_of(unit_text),
               {},
               unit ? unit->factor : 1,
               unit ? unit->offset : 0,
               checked->type().is_condition() ? 0 : formula.decimals,
               formula.range};
    out.result = checked->type().is_condition()
                     ? tr("True or false")
                     : text_of(formula::described(checked->type())) +
                           (unit_text.empty() ? QString() : tr(" in %1").arg(text_of(unit_text)));
    if (!out.result.isEmpty()) out.result[0] = out.result[0].toUpper();
    out.notes = checked->notes;
    if (const auto dimension = formula::dimension_of(checked->type()); dimension && !checked->type().is_condition()) {
        for (const std::string& it : units_of(*dimension)) {
            // A difference of temperatures is in K and in nothing else.
            if (const auto in = parse_compound_unit(it); in && (in->offset == 0 || checked->type().weight == 1))
                out.units << text_of(it);
        }
    }
    for (const formula::Use& use : checked->uses) {
        QString one = text_of(use.written).toHtmlEscaped();  // of a label with links
        if (use.named.kind == formula::Named::Kind::formula) one = QStringLiteral("<a href=\"%1\">%1</a>").arg(one);
        if (use.named.value && use.named.kind == formula::Named::Kind::constant) {
            const std::string own = formula::usual_unit(use.named.type);
            const auto in = parse_compound_unit(own);
            one += QStringLiteral(" = ") +
                   with_unit(QLocale::c().toString(in ? in->from_si(*use.named.value) : *use.named.value, 'g', 6),
                             text_of(own))
                       .toHtmlEscaped();
        }
        if (!out.uses.contains(one)) out.uses << one;
    }
    if (!lap) return out;
    const QString name = text_of(lap->run->row.name);
    out.lap =
        lap->lap.ref.lap == whole_run ? tr("all of %1").arg(name) : tr("lap %1 of %2").arg(lap->lap.ref.lap).arg(name);
    formula::Evaluation options;
    options.range_s = {lap->lap.map.start_s(), lap->lap.map.end_s()};
    // A whole run may be moved against the axis; its recording is not.
    if (lap->lap.ref.lap == whole_run) options.range_s = lap->lap.recording->span_s();
    options.rate_hz = formula.rate_hz;
    const auto channel = lap->run->formulas->evaluate(*checked, options, stop);
    if (!channel) {
        out.problem = channel.error();
        return out;
    }
    // The lap with this one channel in its recording is drawn like any other.
    auto recording = std::make_shared<Recording>();
    recording->channels.push_back(*channel);
    recording->channels.back().quantity = "draft";
    PreparedLap drawn = lap->lap;
    drawn.recording = recording;
    out.trace = trace_of(drawn, "draft", Axis::distance);
    const auto& clock = channel->clock;
    out.figures = statistics(*channel, clock.first_at_or_after(options.range_s.begin),
                             clock.first_at_or_after(options.range_s.end));
    out.result += tr(" · %1 Hz").arg(clock.mean_rate_hz(), 0, 'f', 0);
    return out;
}

}  // namespace rendak::app
