# One interface target holds what every target of ours is compiled with.
set(CMAKE_CXX_STANDARD 20)
set(CMAKE_CXX_STANDARD_REQUIRED ON)
set(CMAKE_CXX_EXTENSIONS OFF)
set(CMAKE_EXPORT_COMPILE_COMMANDS ON)
set(CMAKE_RUNTIME_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/bin)

add_library(rendak_settings INTERFACE)
target_include_directories(rendak_settings INTERFACE ${CMAKE_SOURCE_DIR})
target_compile_options(rendak_settings INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Werror -march=x86-64-v2)
if(RENDAK_LIBFUZZER)
  target_compile_options(rendak_settings INTERFACE -fsanitize=fuzzer-no-link)
endif()
if(RENDAK_SANITIZE)
  target_compile_options(rendak_settings INTERFACE -fsanitize=address,undefined -fno-sanitize-recover=all
                                                   -fno-omit-frame-pointer)
  target_link_options(rendak_settings INTERFACE -fsanitize=address,undefined)
endif()
