#include "app/shell/command_words.h"

#include <QTextStream>

namespace rendak::app {

int complain(const char* command, const QString& text) {
    QTextStream(stderr) << "rendak " << command << ": " << text << "\n";
    return 1;
}

QCommandLineOption add_option(QCommandLineParser& parser, const char* name, const char* text, const char* value,
                              const char* usual) {
    QCommandLineOption out(QString::fromLatin1(name), QString::fromUtf8(text), QString::fromLatin1(value),
                           QString::fromLatin1(usual));
    parser.addOption(out);
    return out;
}

}  // namespace rendak::app
