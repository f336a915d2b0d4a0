#include "core/recording/csv_reader.h"
#include "tests/fuzz/fuzz.h"

int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto file = rendak::fuzz::as_file(data, size);
    rendak::CsvOptions options;
    options.threads = 1;
    if (const auto read = rendak::read_csv(file, options)) (void)rendak::content_digest(read->recording);
    options.rate_hz = 20;
    (void)rendak::read_csv(file, options);
    (void)rendak::preview_table(file);
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    return {"time,speed [km/h],gear\n0,100,3\n0.05,101,3\n0.1,102.5,4\n",
            "Zeit;Speed;Lat;Lon\ns;km/h;deg;deg\n0,00;100,5;57,1;4,2\n0,05;;57,2;4,3\n0,10;7;57,3;4,4\n",
            "# car 27\nSample rate,50\nTime\tRPM\n07:00:00.1\t3000\n07:00:00.2\t3100\n07:00:00.3\t\n",
            "1.0 2.0\n1.1 3.0\n1.2 \"4\"\n"};
}
