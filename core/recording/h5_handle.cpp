#include "core/recording/h5_handle.h"

#include <cstdlib>
#include <cstring>
#include <vector>

namespace rendak::h5 {
namespace {

std::mutex& library_mutex() {
    static std::mutex mutex;
    return mutex;
}

}  // namespace

Lock::Lock() : lock_(library_mutex()) {
    H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);
}

void write_text(hid_t object, const char* name, const std::string& text) {
    const Handle type(H5Tcopy(H5T_C_S1), H5Tclose);
    H5Tset_size(type, text.empty() ? 1 : text.size());
    H5Tset_cset(type, H5T_CSET_UTF8);
    H5Tset_strpad(type, H5T_STR_NULLPAD);
    const Handle space(H5Screate(H5S_SCALAR), H5Sclose);
    const Handle attribute(H5Acreate2(object, name, type, space, H5P_DEFAULT, H5P_DEFAULT), H5Aclose);
    if (attribute.ok()) H5Awrite(attribute, type, text.c_str());
}

void write_number(hid_t object, const char* name, double value) {
    const Handle space(H5Screate(H5S_SCALAR), H5Sclose);
    const Handle attribute(H5Acreate2(object, name, H5T_IEEE_F64LE, space, H5P_DEFAULT, H5P_DEFAULT), H5Aclose);
    if (attribute.ok()) H5Awrite(attribute, H5T_NATIVE_DOUBLE, &value);
}

std::string read_text(hid_t object, const char* name) {
    if (H5Aexists(object, name) <= 0) return {};
    const Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
    if (!attribute.ok()) return {};
    const Handle type(H5Aget_type(attribute), H5Tclose);
    const Handle space(H5Aget_space(attribute), H5Sclose);
    if (!type.ok() || H5Tget_class(type) != H5T_STRING || H5Sget_simple_extent_npoints(space) != 1) return {};
    if (H5Tis_variable_str(type) > 0) {
        char* text = nullptr;
        if (H5Aread(attribute, type, &text) < 0 || text == nullptr) return {};
        std::string out(text);
        H5free_memory(text);
        return out;
    }
    const std::size_t size = H5Tget_size(type);
    if (size == 0 || size > (1U << 20)) return {};
    std::vector<char> buffer(size + 1, '\0');
    if (H5Aread(attribute, type, buffer.data()) < 0) return {};
    return {buffer.data(), strnlen(buffer.data(), size)};
}

bool read_number(hid_t object, const char* name, double& value) {
    if (H5Aexists(object, name) <= 0) return false;
    const Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
    if (!attribute.ok()) return false;
    const Handle type(H5Aget_type(attribute), H5Tclose);
    const Handle space(H5Aget_space(attribute), H5Sclose);
    const auto kind = H5Tget_class(type);
    if ((kind != H5T_FLOAT && kind != H5T_INTEGER) || H5Sget_simple_extent_npoints(space) != 1) return false;
    return H5Aread(attribute, H5T_NATIVE_DOUBLE, &value) >= 0;
}

int last_error_number() {
    int found = 0;
    H5Ewalk2(
        H5E_DEFAULT, H5E_WALK_UPWARD,
        [](unsigned, const H5E_error2_t* error, void* out) -> herr_t {
            const char* text = error->desc != nullptr ? std::strstr(error->desc, "errno = ") : nullptr;
            if (text != nullptr) *static_cast<int*>(out) = std::atoi(text + 8);
            return 0;
        },
        &found);
    return found;
}

}  // namespace rendak::h5
