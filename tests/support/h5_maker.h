#pragma once

#include <hdf5.h>

#include <filesystem>
#include <string>
#include <vector>

namespace rendak::test {

/// Writes an HDF5 file as other programs do: data sets, groups, attributes.
class H5Maker {
  public:
    explicit H5Maker(const std::filesystem::path& file, hsize_t bytes_before = 0) {
        const hid_t creation = H5Pcreate(H5P_FILE_CREATE);
        H5Pset_userblock(creation, bytes_before);
        file_ = H5Fcreate(file.c_str(), H5F_ACC_TRUNC, creation, H5P_DEFAULT);
        H5Pclose(creation);
    }
    ~H5Maker() { H5Fclose(file_); }
    H5Maker(const H5Maker&) = delete;
    H5Maker& operator=(const H5Maker&) = delete;

    [[nodiscard]] hid_t id() const { return file_; }

    H5Maker& group(const std::string& path) {
        H5Gclose(H5Gcreate2(file_, path.c_str(), H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT));
        return *this;
    }
    /// Numbers of `shape`, stored as `type`; packed in chunks where `chunk` is not 0.
    H5Maker& numbers(const std::string& path, const std::vector<double>& values, const std::string& unit = "",
                     std::vector<hsize_t> shape = {}, hid_t type = H5T_IEEE_F64LE, hsize_t chunk = 0) {
        if (shape.empty()) shape = {values.size()};
        const hid_t space = H5Screate_simple(static_cast<int>(shape.size()), shape.data(), nullptr);
        const hid_t creation = H5Pcreate(H5P_DATASET_CREATE);
        if (chunk > 0) {
            std::vector<hsize_t> chunks(shape.size(), 1);
            chunks[0] = chunk;
            H5Pset_chunk(creation, static_cast<int>(chunks.size()), chunks.data());
            H5Pset_deflate(creation, 4);
        }
        const hid_t set = H5Dcreate2(file_, path.c_str(), type, space, H5P_DEFAULT, creation, H5P_DEFAULT);
        H5Dwrite(set, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, values.data());
        H5Dclose(set);
        H5Pclose(creation);
        H5Sclose(space);
        return unit.empty() ? *this : text(path, "units", unit);
    }
    H5Maker& text(const std::string& path, const char* name, const std::string& value) {
        return texts(path, name, {value});
    }
    H5Maker& texts(const std::string& path, const char* name, const std::vector<std::string>& values) {
        std::vector<const char*> lines;
        for (const std::string& value : values) lines.push_back(value.c_str());
        const hid_t type = text_type(), space = space_of(lines.size());
        const hid_t object = H5Oopen(file_, path.c_str(), H5P_DEFAULT);
        const hid_t attribute = H5Acreate2(object, name, type, space, H5P_DEFAULT, H5P_DEFAULT);
        H5Awrite(attribute, type, static_cast<const void*>(lines.data()));
        H5Aclose(attribute);
        H5Oclose(object);
        H5Sclose(space);
        H5Tclose(type);
        return *this;
    }
    H5Maker& number(const std::string& path, const char* name, double value) {
        const hid_t space = H5Screate(H5S_SCALAR), object = H5Oopen(file_, path.c_str(), H5P_DEFAULT);
        const hid_t attribute = H5Acreate2(object, name, H5T_IEEE_F64LE, space, H5P_DEFAULT, H5P_DEFAULT);
        H5Awrite(attribute, H5T_NATIVE_DOUBLE, &value);
        H5Aclose(attribute);
        H5Oclose(object);
        H5Sclose(space);
        return *this;
    }
    H5Maker& text_set(const std::string& path, const std::vector<std::string>& values) {
        std::vector<const char*> lines;
        for (const std::string& value : values) lines.push_back(value.c_str());
        const hid_t type = text_type(), space = space_of(lines.size());
        const hid_t set = H5Dcreate2(file_, path.c_str(), type, space, H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
        H5Dwrite(set, type, H5S_ALL, H5S_ALL, H5P_DEFAULT, static_cast<const void*>(lines.data()));
        H5Dclose(set);
        H5Sclose(space);
        H5Tclose(type);
        return *this;
    }

  private:
    static hid_t text_type() {
        const hid_t type = H5Tcopy(H5T_C_S1);
        H5Tset_size(type, H5T_VARIABLE);
        return type;
    }
    static hid_t space_of(hsize_t count) {
        return count == 1 ? H5Screate(H5S_SCALAR) : H5Screate_simple(1, &count, nullptr);
    }

    hid_t file_ = -1;
};

}  // namespace rendak::test
