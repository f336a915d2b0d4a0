// rendak-logger: a stand-in for the car's logger, for practice and for tests.
#include <CLI/CLI.hpp>
#include <csignal>
#include <iostream>

#include "demo/stand_in.h"

int main(int count, char** arguments) {
    CLI::App app(
        "A stand-in for the car's logger: serves the recordings of a folder over HTTP on this computer only "
        "(docs/logger-interface.md). The folder itself is never changed. It prints its address and runs until it is "
        "stopped (Ctrl+C) or its standard input is closed with --until-closed.",
        "rendak-logger");
    app.set_version_flag("--version", "rendak-logger " RENDAK_VERSION, "Say the version and exit");
    std::string card;
    int port = 0;
    bool until_closed = false;
    rendak::demo::Troubles troubles;
    app.add_option("--card", card, "Folder with recordings, for example demo-library/demo-files/card")->required();
    app.add_option("--port", port, "Port on 127.0.0.1 (default: a free one)");
    app.add_flag("--until-closed", until_closed, "End when standard input is closed");
    app.add_option("--slow", troubles.bytes_per_s, "Bytes per second of the link");
    app.add_option("--drop-after", troubles.drop_after, "The link is lost after so many bytes of a download");
    app.add_option("--drops", troubles.drops, "How many times the link is lost (default 1)");
    app.add_option("--corrupt", troubles.corrupt_number, "Number of a recording that arrives damaged");
    app.add_option("--corruptions", troubles.corruptions, "How many times it arrives damaged (default 1)");
    app.add_option("--cut-off", troubles.cut_off_number, "Number of a recording that ends in the middle");
    app.add_option("--clock-offset", troubles.clock_offset_s, "Seconds by which the clock is wrong");
    app.add_flag("--nearly-full", troubles.nearly_full, "The card is nearly full");
    app.add_flag("--restart-numbering", troubles.restart_numbering, "Numbers start again at 1 with every list");
    app.add_flag("--keeps-erased", troubles.keeps_erased, "Says that it has erased, and has not");
    CLI11_PARSE(app, count, arguments);

    sigset_t signals;
    sigemptyset(&signals);
    sigaddset(&signals, SIGINT);
    sigaddset(&signals, SIGTERM);
    pthread_sigmask(SIG_BLOCK, &signals, nullptr);
    rendak::demo::StandIn logger(troubles);
    if (const auto started = logger.start(card, port); !started) {
        std::cerr << "rendak-logger: " << started.error().text() << "\n";
        return 1;
    }
    std::cout << logger.url() << std::endl;
    if (until_closed) {
        std::string line;
        while (std::getline(std::cin, line)) {
        }
    } else {
        int signal = 0;
        sigwait(&signals, &signal);
    }
    logger.stop();
    return 0;
}
