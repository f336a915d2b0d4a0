#pragma once

#include <QCommandLineParser>

namespace rendak::app {

// What the commands that paint without a window have in common.

/// Says on stderr what is wrong with the call of `rendak <command>`; the code to end with.
[[nodiscard]] int complain(const char* command, const QString& text);
/// An option with a value.
QCommandLineOption add_option(QCommandLineParser& parser, const char* name, const char* text, const char* value,
                              const char* usual = "");

}  // namespace rendak::app
