// The wrapper around HDF5. Changed bytes would mostly test HDF5 itself (whose 1.10.8 reads out of bounds on damaged
// structures of its own); so the input is a recipe for a sound HDF5 file with hostile contents: wrong types, sizes,
// shapes and numbers wherever a recording has something.
#include "core/recording/recording_file.h"

#include <hdf5.h>
#include <unistd.h>

#include <cmath>
#include <cstdlib>

#include "core/signal/overview.h"
#include "tests/fuzz/fuzz.h"

namespace {

class Recipe {
  public:
    Recipe(const std::uint8_t* data, std::size_t size) : data_(data), size_(size) {}
    unsigned next(unsigned below) { return (at_ < size_ ? data_[at_++] : 0U) % below; }
    /// Mostly 0, the sound choice.
    unsigned seldom(unsigned below) { return next(4) == 3 ? next(below) : 0; }
    double number(double sound) {
        const double odd[] = {sound, 0, -1, std::nan(""), INFINITY, 1e300, 1e-300, 4294967296.0};
        return odd[seldom(8)];
    }

  private:
    const std::uint8_t* data_;
    std::size_t size_, at_ = 0;
};

void attribute(hid_t object, const char* name, double value) {
    const hid_t space = H5Screate(H5S_SCALAR);
    const hid_t made = H5Acreate2(object, name, H5T_IEEE_F64LE, space, H5P_DEFAULT, H5P_DEFAULT);
    H5Awrite(made, H5T_NATIVE_DOUBLE, &value);
    H5Aclose(made);
    H5Sclose(space);
}

void attribute(hid_t object, const char* name, const std::string& text, Recipe& recipe) {
    if (recipe.seldom(5) == 1) return attribute(object, name, recipe.number(1));
    const hid_t type = H5Tcopy(H5T_C_S1);
    const bool variable = recipe.seldom(4) == 1;
    H5Tset_size(type, variable ? H5T_VARIABLE : text.size() + 1);
    const hsize_t many = 3;
    const hid_t space = recipe.seldom(6) == 2 ? H5Screate_simple(1, &many, nullptr) : H5Screate(H5S_SCALAR);
    const hid_t made = H5Acreate2(object, name, type, space, H5P_DEFAULT, H5P_DEFAULT);
    const std::string padded = text + std::string(3 * (text.size() + 1), '\0');
    const char* pointers[] = {text.c_str(), text.c_str(), text.c_str()};
    H5Awrite(made, type, variable ? static_cast<const void*>(pointers) : padded.data());
    H5Aclose(made);
    H5Sclose(space);
    H5Tclose(type);
}

void dataset(hid_t group, const char* name, hid_t sound_type, hsize_t sound_size, Recipe& recipe) {
    const hid_t types[] = {sound_type,    H5T_IEEE_F64LE, H5T_IEEE_F32LE, H5T_IEEE_F32BE,
                           H5T_STD_I16LE, H5T_STD_U64BE,  H5T_C_S1};
    const hid_t type = types[recipe.seldom(7)];
    const hsize_t sizes[] = {sound_size, 0, 1, 2, 63, 1000, sound_size + 1};
    hsize_t dims[2] = {sizes[recipe.seldom(7)], 2};
    const int rank = recipe.seldom(8) == 1 ? 0 : recipe.seldom(8) == 1 ? 2 : 1;
    const hid_t space = rank == 0 ? H5Screate(H5S_SCALAR) : H5Screate_simple(rank, dims, nullptr);
    const hid_t settings = H5Pcreate(H5P_DATASET_CREATE);
    if (rank == 1 && dims[0] > 4 && recipe.seldom(3) == 1) {
        const hsize_t chunk = 4;
        H5Pset_chunk(settings, 1, &chunk);
        if (recipe.seldom(3) == 1) H5Pset_deflate(settings, 1);
    }
    const hid_t made = H5Dcreate2(group, name, type, space, H5P_DEFAULT, settings, H5P_DEFAULT);
    // Not always written: then the values are the fill value and take no place in the file.
    if (made >= 0 && recipe.seldom(4) != 1) {
        std::vector<double> values(static_cast<std::size_t>(dims[0]) * 2 + 2);
        for (std::size_t i = 0; i < values.size(); ++i)
            values[i] = recipe.seldom(9) == 5 ? recipe.number(0) : 0.1 * static_cast<double>(i);
        if (type != H5T_C_S1) H5Dwrite(made, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, values.data());
    }
    if (made >= 0) H5Dclose(made);
    H5Pclose(settings);
    H5Sclose(space);
}

}  // namespace

int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const std::string file =
        (std::filesystem::temp_directory_path() / ("fuzz-recording-" + std::to_string(::getpid()) + ".h5")).string();
    static const bool registered = std::atexit([] { ::unlink(file.c_str()); }) == 0;
    (void)registered;
    Recipe recipe(data, size);
    H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);
    const hid_t out = H5Fcreate(file.c_str(), H5F_ACC_TRUNC, H5P_DEFAULT, H5P_DEFAULT);
    attribute(out, "format", recipe.seldom(9) == 4 ? "something else" : "rendak recording", recipe);
    attribute(out, "version", recipe.number(1));
    attribute(out, "source_name", "run.csv", recipe);
    attribute(out, "start_unix_s", recipe.number(1.7e9));
    const hid_t channels =
        H5Gcreate2(out, recipe.seldom(9) == 3 ? "elsewhere" : "channels", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
    const unsigned count = recipe.next(4);
    for (unsigned i = 0; i < count; ++i) {
        const std::string name = std::to_string(i);
        const unsigned kind = recipe.seldom(9);
        if (kind == 1) {
            H5Lcreate_soft("/nowhere", channels, name.c_str(), H5P_DEFAULT, H5P_DEFAULT);
            continue;
        }
        if (kind == 2) {
            dataset(channels, name.c_str(), H5T_IEEE_F32LE, 10, recipe);
            continue;
        }
        const hid_t group = H5Gcreate2(channels, name.c_str(), H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
        attribute(group, "name", "Channel " + name, recipe);
        attribute(group, "quantity", recipe.seldom(3) == 1 ? "nonsense" : "speed", recipe);
        attribute(group, "unit", "m/s", recipe);
        const hsize_t n = 130 + 70 * recipe.next(3);
        if (recipe.seldom(9) != 2) dataset(group, "samples", H5T_IEEE_F32LE, n, recipe);
        if (recipe.next(2) == 0) {
            attribute(group, "rate_hz", recipe.number(10));
            attribute(group, "start_s", recipe.number(0));
        } else {
            dataset(group, "times_s", H5T_IEEE_F64LE, n, recipe);
        }
        if (recipe.next(2) == 0) dataset(group, "overview", H5T_IEEE_F32LE, 8, recipe);
        H5Gclose(group);
    }
    H5Gclose(channels);
    H5Fclose(out);
    if (const auto read = rendak::open_recording(file)) {
        (void)rendak::content_digest(**read);
        for (const auto& channel : (*read)->channels) {
            (void)rendak::statistics(channel, 0, channel.size());
            if (!channel.is_double()) (void)rendak::min_max(channel, 0, channel.size());
            (void)channel.value_at(1.5);
        }
    }
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    std::string counting;
    for (int i = 0; i < 400; ++i) counting += static_cast<char>(i * 37);
    return {std::string(1, '\3'), std::string(200, '\1'), counting};
}
