# One interface target holds what every target of ours is compiled with.
set(CMAKE_CXX_STANDARD 20)
set(CMAKE_CXX_STANDARD_REQUIRED ON)
set(CMAKE_CXX_EXTENSIONS OFF)
set(CMAKE_EXPORT_COMPILE_COMMANDS ON)
set(CMAKE_RUNTIME_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/bin)

add_library(rendak_settings INTERFACE)
target_include_directories(rendak_settings INTERFACE ${CMAKE_SOURCE_DIR})
target_compile_options(rendak_settings INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Werror -march=x86-64-v2)
if(CMAKE_CXX_COMPILER_ID STREQUAL GNU)
  # GCC 12 finds these in its own std::string (its bug 105651) and says so once headers are precompiled.
  target_compile_options(rendak_settings INTERFACE -Wno-array-bounds -Wno-restrict -Wno-stringop-overread
                                                   -Wno-stringop-overflow)
endif()
if(CMAKE_CXX_COMPILER_ID STREQUAL Clang)
  # The compiler cache keeps precompiled headers by content: their times must not count.
  target_compile_options(rendak_settings INTERFACE "SHELL:-Xclang -fno-pch-timestamp")
endif()
if(RENDAK_LIBFUZZER)
  target_compile_options(rendak_settings INTERFACE -fsanitize=fuzzer-no-link)
endif()
if(RENDAK_SANITIZE)
  # What asks at every use of a pointer is left out: a third of the compile time, and the address sanitizer stops there too.
  # For the whole directory, so that a target's own options come behind them and can take something back.
  add_compile_options(-fsanitize=address,undefined -fno-sanitize=null,object-size,vptr -fno-sanitize-recover=all
                      -fno-omit-frame-pointer)
  add_link_options(-fsanitize=address,undefined)
endif()

# How hard the optimiser works in a room: in the release preset, and under the sanitizers. Where nobody waits for the
# program it works little, so that nobody waits for the build (docs/building.md has the figures). One level a target:
# GCC 12 crashes when a file asks for more than the precompiled header it reads.
function(optimise target release sanitized)
  if(RENDAK_SANITIZE)
    target_compile_options(${target} PRIVATE -O${sanitized})
  elseif(CMAKE_BUILD_TYPE STREQUAL RelWithDebInfo)
    target_compile_options(${target} PRIVATE -O${release})
  endif()
endfunction()

# Tests are looked at for errors of memory only; what they call is looked at for all.
function(optimise_test target)
  optimise(${target} 1 0)
  if(CMAKE_BUILD_TYPE STREQUAL RelWithDebInfo)
    # A test names its lines itself; the compiler takes a tenth less without the debugger's.
    target_compile_options(${target} PRIVATE -g0)
  endif()
  if(RENDAK_SANITIZE)
    target_compile_options(${target} PRIVATE -fno-sanitize=undefined)
  endif()
endfunction()

# One precompiled header for a target, out of cmake/headers.
function(precompile target header)
  target_precompile_headers(${target} PRIVATE ${CMAKE_SOURCE_DIR}/cmake/headers/${header}.h)
endfunction()

# Tests and what is made up for them are compiled once: where another build is named here (./check names the optimised
# one), its object files of them are linked with what this build tests. ninja asks there whether they are still what the
# sources say (the target compiled_tests).
set(RENDAK_TESTS_OF "" CACHE PATH "Build whose compiled tests are taken; empty: they are compiled here")
function(taken_objects out target)
  string(REGEX REPLACE "/([^/]*)$" "/CMakeFiles/\\1.dir/" folder ${target})
  list(TRANSFORM ARGN PREPEND ${RENDAK_TESTS_OF}/${folder} OUTPUT_VARIABLE objects)
  list(TRANSFORM objects APPEND .o)
  set_source_files_properties(${objects} PROPERTIES EXTERNAL_OBJECT TRUE GENERATED TRUE)
  set_property(GLOBAL APPEND PROPERTY objects_taken ${objects})
  set(${out} ${objects} PARENT_SCOPE)
endfunction()
