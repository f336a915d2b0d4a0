#include "app/text/file_kinds.h"

#include <QCoreApplication>

#include "core/recording/formats.h"

namespace rendak::app {

QStringList logged_file_patterns() {
    QStringList out;
    for (const FileFormat& format : all_formats()) {
        for (const std::string_view ending : format.endings) {
            const QString pattern = u'*' + QString::fromUtf8(ending.data(), static_cast<qsizetype>(ending.size()));
            out << pattern << pattern.toUpper();
        }
    }
    return out;
}

QString logged_file_filter() {
    return QCoreApplication::translate("Files", "Logged files (%1);;All files (*)")
        .arg(logged_file_patterns().join(u' '));
}

}  // namespace rendak::app
