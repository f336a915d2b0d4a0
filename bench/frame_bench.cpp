// One frame of Compare: 12 lanes × 4 laps of 10 000 samples at 1280 × 800, beside QCustomPlot drawing the same into the
// same size of picture with its fastest setting (thin lines, no soft edges) and a plain pass over all points.
// QCustomPlot's header needs the keywords that our own sources do without.
#undef QT_NO_KEYWORDS
#undef QT_NO_FOREACH
#undef QT_NO_CAST_FROM_ASCII
#include <benchmark/benchmark.h>
#include <qcustomplot.h>

#include <QApplication>
#include <QMouseEvent>
#include <chrono>
#include <cmath>
#include <random>

#include "app/desks/chassis/chassis_desk.h"
#include "app/desks/compare/compare_desk.h"
#include "app/desks/formulas/formula_edit.h"
#include "app/desks/formulas/formulas_desk.h"
#include "app/desks/formulas/preview_plot.h"
#include "app/plot/map_canvas.h"
#include "app/plot/pair_plot.h"
#include "app/plot/trace_canvas.h"
#include "app/theme/theme.h"
#include "app/workspace/workspace.h"

using namespace rendak;
using namespace rendak::app;

namespace {

constexpr int lanes = 12, laps = 4, samples = 10'000, width = 1280, height = 800;

const std::vector<Trace>& traces() {
    static const std::vector<Trace> made = [] {
        std::mt19937 engine(7);
        std::normal_distribution<float> noise(0, 0.01F);
        std::vector<Trace> out;
        for (int k = 0; k < lanes * laps; ++k) {
            Trace trace;
            const int lane = 1 + k / laps;
            for (int i = 0; i < samples; ++i) {
                const float x = 4400.0F * static_cast<float>(i) / samples;
                trace.x.push_back(x);
                trace.y.push_back(std::sin(x * 0.01F * static_cast<float>(lane)) * 0.8F +
                                  0.05F * static_cast<float>(k % laps) + noise(engine));
            }
            out.push_back(std::move(trace));
        }
        return out;
    }();
    return made;
}

/// The rasteriser alone: the look's own line width, soft edges.
void frame_of_traces(benchmark::State& state) {
    QImage image(width, height, QImage::Format_RGB32);
    std::vector<DrawnLane> drawn;
    for (int lane = 0; lane < lanes; ++lane) {
        const QRect area(0, lane * height / lanes, width, height / lanes);
        DrawnLane one{area,
                      {{0, 4400}, 0, width},
                      {{-1.2, 1.2}, double(area.bottom()), double(area.top())},
                      lap_trace_width_px,
                      {}};
        for (int lap = 0; lap < laps; ++lap) {
            one.traces.push_back(
                {&traces()[static_cast<std::size_t>(lane * laps + lap)], light_theme().lap(lap).rgb()});
        }
        drawn.push_back(std::move(one));
    }
    for (auto _ : state) {
        image.fill(Qt::white);
        draw_lanes(image, drawn, static_cast<unsigned>(state.range(0)));
        benchmark::DoNotOptimize(image.bits());
    }
}
BENCHMARK(frame_of_traces)->Arg(1)->Arg(2)->Unit(benchmark::kMillisecond)->UseRealTime();

/// The floor: lowest and highest of all the points, without drawing.
void frame_floor(benchmark::State& state) {
    for (auto _ : state) {
        for (const Trace& trace : traces()) benchmark::DoNotOptimize(trace.limits());
    }
}
BENCHMARK(frame_floor)->Unit(benchmark::kMillisecond);

void frame_qcustomplot(benchmark::State& state) {
    const bool soft = state.range(0) != 0;
    QCustomPlot plot;
    plot.setGeometry(0, 0, width, height);
    plot.setNotAntialiasedElements(soft ? QCP::aeNone : QCP::aeAll);
    plot.setAntialiasedElements(soft ? QCP::aePlottables : QCP::aeNone);
    plot.setPlottingHints(QCP::phFastPolylines);
    plot.plotLayout()->clear();
    for (int lane = 0; lane < lanes; ++lane) {
        auto* rect = new QCPAxisRect(&plot);
        plot.plotLayout()->addElement(lane, 0, rect);
        for (int lap = 0; lap < laps; ++lap) {
            auto* graph = plot.addGraph(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
            const Trace& trace = traces()[static_cast<std::size_t>(lane * laps + lap)];
            graph->setData(QVector<double>(trace.x.begin(), trace.x.end()),
                           QVector<double>(trace.y.begin(), trace.y.end()), true);
            graph->setPen(QPen(light_theme().lap(lap), soft ? lap_trace_width_px : 0));
            graph->setAdaptiveSampling(true);
        }
        rect->axis(QCPAxis::atBottom)->setRange(0, 4400);
        rect->axis(QCPAxis::atLeft)->setRange(-1.2, 1.2);
    }
    plot.replot();
    for (auto _ : state) plot.replot(QCustomPlot::rpImmediateRefresh);
}
BENCHMARK(frame_qcustomplot)->Arg(0)->Unit(benchmark::kMillisecond);
BENCHMARK(frame_qcustomplot)->Arg(1)->Unit(benchmark::kMillisecond)->Iterations(3);

/// The real canvas on a real library (RENDAK_BENCH_LIBRARY, the demo): a whole frame with labels, and a cursor move.
std::vector<std::unique_ptr<Workspace>>& workspaces() {
    static std::vector<std::unique_ptr<Workspace>> kept;
    return kept;
}
Workspace& workspace_of(std::unique_ptr<Library> library) {
    auto session = std::make_shared<Session>(std::move(library));
    auto selection = std::make_shared<Selection>(*session);
    return *workspaces().emplace_back(std::make_unique<Workspace>(session, selection));
}

struct BenchDesk {
    Workspace& workspace;
    TraceCanvas canvas;
    explicit BenchDesk(std::unique_ptr<Library> library)
        : workspace(workspace_of(std::move(library))), canvas(workspace.focus(), workspace.comparison()) {
        std::vector<Lane> all;
        for (const char* quantity :
             {"gap", "speed", "throttle", "brake_front", "steering", "gear", "lateral_acceleration",
              "longitudinal_acceleration", "engine_speed", "yaw_rate", "wheel_speed_fl", "wheel_speed_fr"})
            all.push_back({quantity, 1});
        canvas.set_lanes(all);
        canvas.resize(width, height);
        pick({{{2}, 3}, {{2}, 4}, {{3}, 1}, {{3}, 4}});
    }
    void pick(const std::vector<LapRef>& more) {
        const std::size_t wanted = workspace.focus().state().laps.size() + more.size();
        for (const LapRef lap : more) workspace.pick(lap);
        while (!workspace.jobs().idle() || workspace.comparison().laps().laps.size() < wanted)
            QApplication::processEvents(QEventLoop::AllEvents, 5);
    }
    /// A hand that drags: the range moves a little every frame.
    void drag(benchmark::State& state) {
        QImage target(canvas.size(), QImage::Format_RGB32);
        double shift = 0;
        canvas.render(&target);
        for (auto _ : state) {
            shift = shift > 100 ? 0 : shift + 1;
            workspace.focus().set_range({shift, 4400 + shift});
            canvas.render(&target);
        }
    }
};

std::unique_ptr<BenchDesk> desk(benchmark::State& state) {
    const char* folder = std::getenv("RENDAK_BENCH_LIBRARY");
    auto library = Library::open(folder == nullptr ? "" : folder, Library::Open::existing);
    if (!library) {
        state.SkipWithError("set RENDAK_BENCH_LIBRARY to the demo library, or use bench/run");
        return nullptr;
    }
    return std::make_unique<BenchDesk>(std::move(*library));
}

void frame_of_the_desk(benchmark::State& state) {
    const auto d = desk(state);
    if (d != nullptr) d->drag(state);
}
BENCHMARK(frame_of_the_desk)->Unit(benchmark::kMillisecond)->UseRealTime();

void cursor_move(benchmark::State& state) {
    const auto d = desk(state);
    if (d == nullptr) return;
    QImage target(width, height, QImage::Format_RGB32);
    d->canvas.render(&target);
    const int before = d->canvas.redraws();
    double place = 0;
    for (auto _ : state) {
        place = place > 4000 ? 0 : place + 7;
        d->workspace.focus().set_cursor(place);
        d->canvas.render(&target);
    }
    if (d->canvas.redraws() != before) state.SkipWithError("a cursor move redrew the traces");
}
BENCHMARK(cursor_move)->Unit(benchmark::kMillisecond);

/// A million points of a scatter, coloured by a third channel, into a picture of the size beside the traces; and the
/// same points in QCustomPlot.
struct Cloud {
    std::vector<float> x, y, z;
    Cloud() {
        std::mt19937 engine(3);
        std::normal_distribution<float> noise(0, 1);
        for (int i = 0; i < 1'000'000; ++i) {
            x.push_back(noise(engine));
            y.push_back(0.5F * x.back() + noise(engine));
            z.push_back(static_cast<float>(i));
        }
    }
};
const Cloud& cloud() {
    static const Cloud made;
    return made;
}

void scatter_of_a_million(benchmark::State& state) {
    PairPlot plot;
    plot.z = Shown{};
    plot.series.push_back({cloud().x, cloud().y, cloud().z, light_theme().lap(0), QStringLiteral("A")});
    plot.fit_axes();
    const QSize size(500, 380);
    QImage image(size, QImage::Format_RGB32);
    for (auto _ : state) {
        image.fill(Qt::white);
        paint(plot, image, size);
        benchmark::DoNotOptimize(image.bits());
    }
}
BENCHMARK(scatter_of_a_million)->Unit(benchmark::kMillisecond)->UseRealTime();

void scatter_qcustomplot(benchmark::State& state) {
    QCustomPlot plot;
    plot.setGeometry(0, 0, 500, 380);
    plot.setNotAntialiasedElements(QCP::aeAll);
    auto* graph = plot.addGraph();
    graph->setData(QVector<double>(cloud().x.begin(), cloud().x.end()),
                   QVector<double>(cloud().y.begin(), cloud().y.end()));
    graph->setLineStyle(QCPGraph::lsNone);
    graph->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDot));
    plot.rescaleAxes();
    for (auto _ : state) plot.replot(QCustomPlot::rpImmediateRefresh);
}
BENCHMARK(scatter_qcustomplot)->Unit(benchmark::kMillisecond)->Iterations(3);

/// Eight laps in sixteen lanes with labels, on a large screen.
void frame_of_a_large_desk(benchmark::State& state) {
    const auto d = desk(state);
    if (d == nullptr) return;
    std::vector<Lane> all;
    for (const char* quantity : {"gap", "line_offset", "speed", "throttle", "brake_front", "brake_rear", "steering",
                                 "gear", "lateral_acceleration", "longitudinal_acceleration", "engine_speed",
                                 "yaw_rate", "wheel_speed_fl", "wheel_speed_fr", "wheel_speed_rl", "wheel_speed_rr"})
        all.push_back({quantity, 1});
    d->canvas.set_lanes(all);
    d->canvas.resize(2560, 1440);
    d->pick({{{2}, 5}, {{2}, 6}, {{3}, 6}, {{3}, 7}});
    d->drag(state);
}
BENCHMARK(frame_of_a_large_desk)->Unit(benchmark::kMillisecond)->UseRealTime();

/// A whole recording (RENDAK_BENCH_LONG, a library that bench_long kept) zoomed from all of it to one second and back:
/// the worst frame, and the first paint of all of it.
void zoom_of_a_long_run(benchmark::State& state) {
    const char* folder = std::getenv("RENDAK_BENCH_LONG");
    auto library = Library::open(folder == nullptr ? "" : folder, Library::Open::existing);
    if (!library) return state.SkipWithError("set RENDAK_BENCH_LONG to a library that bench_long kept");
    using Clock = std::chrono::steady_clock;
    const auto ms_since = [](Clock::time_point begin) {
        return std::chrono::duration<double, std::milli>(Clock::now() - begin).count();
    };
    Workspace& workspace = workspace_of(std::move(*library));
    TraceCanvas canvas(workspace.focus(), workspace.comparison());
    canvas.resize(width, height);
    std::vector<Lane> all{{"speed", 1}, {"lateral_acceleration", 1}};
    for (int k = 4; k < 14; ++k) all.push_back({"channel:Sensor " + std::to_string(k), 1});
    canvas.set_lanes(all);
    QImage target(canvas.size(), QImage::Format_RGB32);
    const auto begin = Clock::now();
    workspace.pick({{1}, whole_run});
    while (!workspace.jobs().idle() || workspace.comparison().laps().empty())
        QApplication::processEvents(QEventLoop::AllEvents, 5);
    canvas.render(&target);
    const double first_ms = ms_since(begin);
    double worst_ms = 0;
    int frames = 0;
    for (auto _ : state) {
        const Interval whole = workspace.comparison().view_limits();
        const double middle = 0.37 * whole.length();
        constexpr int steps = 60;
        for (int k = 0; k <= 2 * steps; ++k, ++frames) {
            const double share = static_cast<double>(k <= steps ? k : 2 * steps - k) / steps;
            const double length = std::pow(whole.length(), 1 - share);
            const auto frame = Clock::now();
            workspace.comparison().set_view({middle - length / 2, middle + length / 2});
            canvas.render(&target);
            worst_ms = std::max(worst_ms, ms_since(frame));
        }
    }
    state.counters["first_paint_ms"] = first_ms;
    state.counters["worst_frame_ms"] = worst_ms;
    state.counters["frames"] = frames;
}

/// One step of the replay: the cursor moves on the traces, the map, the values and the board of the whole desk. At 60 a
/// second there are 16.7 ms for it.
void step_of_the_replay(benchmark::State& state) {
    const char* folder = std::getenv("RENDAK_BENCH_LIBRARY");
    auto library = Library::open(folder == nullptr ? "" : folder, Library::Open::existing);
    if (!library) return state.SkipWithError("set RENDAK_BENCH_LIBRARY to the demo library, or use bench/run");
    Workspace& workspace = workspace_of(std::move(*library));
    CompareDesk desk(workspace);
    desk.resize(width, height);
    desk.show();
    workspace.pick_best({2});
    workspace.pick_best({3});
    desk.board().show();
    const auto settle = [&] {
        while (!workspace.jobs().idle() || workspace.comparison().laps().laps.size() < 2)
            QApplication::processEvents(QEventLoop::AllEvents, 5);
        QApplication::processEvents();
    };
    settle();
    QImage target(desk.size(), QImage::Format_RGB32);
    double place = 0;
    for (auto _ : state) {
        place = place > 4700 ? 0 : place + 0.9;
        workspace.focus().set_cursor(place);
        desk.render(&target);
    }
}
BENCHMARK(step_of_the_replay)->Unit(benchmark::kMillisecond)->UseRealTime();

/// One step of dragging the end of a stretch on the Chassis desk: move and paint the whole desk.
void step_of_a_dragged_stretch(benchmark::State& state) {
    const char* folder = std::getenv("RENDAK_BENCH_LIBRARY");
    auto library = folder == nullptr ? Library::open("/nonexistent", Library::Open::existing)
                                     : Library::open(folder, Library::Open::existing);
    if (!library) return state.SkipWithError("RENDAK_BENCH_LIBRARY is not set");
    Workspace& workspace = workspace_of(std::move(*library));
    ChassisDesk desk(workspace);
    desk.resize(width, height);
    desk.show();
    workspace.pick_best({6});
    workspace.pick_best({9});
    desk.show_page(ChassisPage::spectrum);
    while (!workspace.jobs().idle() || desk.look() == nullptr || desk.look()->stretches.empty())
        QApplication::processEvents(QEventLoop::AllEvents, 5);
    StretchStrip& strip = desk.strip();
    if (strip.stretches().empty()) return state.SkipWithError("there is no stretch");
    const double end_px = strip.x_scale().to_pixel(strip.stretches()[0].end);
    const auto send = [&](QEvent::Type type, double px, Qt::MouseButton button, Qt::MouseButtons buttons) {
        QMouseEvent event(type, QPointF(px, 20), strip.mapToGlobal(QPointF(px, 20)), button, buttons, {});
        QApplication::sendEvent(&strip, &event);
    };
    send(QEvent::MouseButtonPress, end_px, Qt::LeftButton, Qt::LeftButton);
    QImage target(desk.size(), QImage::Format_RGB32);
    int step = 0;
    for (auto _ : state) {
        send(QEvent::MouseMove, end_px + (++step % 40), Qt::NoButton, Qt::LeftButton);
        desk.render(&target);
    }
}
BENCHMARK(step_of_a_dragged_stretch)->Unit(benchmark::kMillisecond)->UseRealTime();

/// From a keystroke in a formula to its new curve on the screen of the Formulas desk: check, compute the lap, paint.
void keystroke_to_preview(benchmark::State& state) {
    const char* folder = std::getenv("RENDAK_BENCH_LIBRARY");
    auto library = folder == nullptr ? Library::open("/nonexistent", Library::Open::existing)
                                     : Library::open(folder, Library::Open::existing);
    if (!library) return state.SkipWithError("RENDAK_BENCH_LIBRARY is not set");
    Workspace& workspace = workspace_of(std::move(*library));
    FormulasDesk desk(workspace);
    desk.resize(width, height);
    desk.show();
    workspace.pick_best({4});
    const auto settle = [&] {
        while (!workspace.jobs().idle() || workspace.comparison().busy()) QApplication::processEvents();
    };
    settle();
    (void)desk.paste(QStringLiteral("draft in mm/s = savgol_filter(damper_fl, window=0.02 s, deriv=1) * 1"));
    settle();
    int number = 1;
    for (auto _ : state) {
        QTextCursor cursor(desk.editor().document());
        cursor.movePosition(QTextCursor::End);
        cursor.movePosition(QTextCursor::PreviousCharacter, QTextCursor::KeepAnchor);
        cursor.insertText(QString::number(number = number % 9 + 1));
        settle();
        QApplication::processEvents();
    }
    if (desk.preview().trace().x.size() < 1000) state.SkipWithError("there is no preview");
}
BENCHMARK(keystroke_to_preview)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

int main(int count, char** arguments) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(count, arguments);
    load_fonts();
    apply_theme(false);
    benchmark::Initialize(&count, arguments);
    // Only where there is such a library: it takes 1.3 GB.
    if (std::getenv("RENDAK_BENCH_LONG") != nullptr)
        benchmark::RegisterBenchmark("zoom_of_a_long_run", zoom_of_a_long_run)
            ->Unit(benchmark::kMillisecond)
            ->UseRealTime()
            ->Iterations(2);
    benchmark::RunSpecifiedBenchmarks();
    // They write down what was picked: not later than the application lives.
    workspaces().clear();
    return 0;
}
