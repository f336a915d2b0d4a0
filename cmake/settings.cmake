# One interface target holds what every target of ours is compiled with.
set(CMAKE_CXX_STANDARD 20)
set(CMAKE_CXX_STANDARD_REQUIRED ON)
set(CMAKE_CXX_EXTENSIONS OFF)
set(CMAKE_EXPORT_COMPILE_COMMANDS ON)
set(CMAKE_RUNTIME_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/bin)

option(RENDAK_UNITS "Compile several files of a folder as one (compile_in_units)" OFF)
set(RENDAK_FILES_A_UNIT 8 CACHE STRING "How many files")

add_library(rendak_settings INTERFACE)
target_include_directories(rendak_settings INTERFACE ${CMAKE_SOURCE_DIR})
target_compile_options(rendak_settings INTERFACE -Wall -Wextra -Wpedantic -Werror -march=x86-64-v2)
if(CMAKE_CXX_COMPILER_ID STREQUAL GNU)
  # GCC 12 finds these in its own std::string (its bug 105651) and says so once headers are precompiled.
  target_compile_options(rendak_settings INTERFACE -Wno-array-bounds -Wno-restrict -Wno-stringop-overread
                                                   -Wno-stringop-overflow)
  # A heap of 500 MB before it looks for what it can give back: an eighth of the memory more, up to a quarter of the time less.
  target_compile_options(rendak_settings INTERFACE --param=ggc-min-heapsize=500000)
endif()
if(CMAKE_CXX_COMPILER_ID STREQUAL Clang)
  # The compiler cache keeps precompiled headers by content: their times must not count.
  target_compile_options(rendak_settings INTERFACE "SHELL:-Xclang -fno-pch-timestamp")
endif()
if(RENDAK_UNITS)
  # A name of one file hides that of another beside it: what hides within a file the dev preset sees, and clang-tidy.
  # What a file keeps to itself it may build upon there as elsewhere.
  target_compile_options(rendak_settings INTERFACE $<$<CXX_COMPILER_ID:GNU>:-Wno-subobject-linkage>)
else()
  target_compile_options(rendak_settings INTERFACE -Wshadow)
endif()
# ./check links some forty programs: this linker takes a fifth of the time of the usual one.
find_program(RENDAK_LLD ld.lld)
if(RENDAK_LLD)
  add_link_options(-fuse-ld=lld)
endif()
if(RENDAK_LIBFUZZER)
  target_compile_options(rendak_settings INTERFACE -fsanitize=fuzzer-no-link)
endif()
if(RENDAK_SANITIZE)
  # What asks at every use of a pointer is left out: a third of the compile time, and the address sanitizer stops there too.
  # For the whole directory, so that a target's own options come behind them and can take something back.
  add_compile_options(-fsanitize=address,undefined -fno-sanitize=null,object-size,vptr,pointer-overflow -fno-sanitize-recover=all
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
  if(RENDAK_SANITIZE)
    target_compile_options(${target} PRIVATE -fno-sanitize=undefined)
  endif()
endfunction()

# One precompiled header for a target, out of cmake/headers: named as sources name it, so that a clone elsewhere finds it, and
# with it all that read it, in the compiler cache.
function(precompile target header)
  target_precompile_headers(${target} PRIVATE <cmake/headers/${header}.h>)
endfunction()

# Files of a folder are compiled several at a time, as one: what they include and the templates that they share are then
# read and made once for all of them. Files with options of their own stay alone. By folder, so that a new file changes
# the units of its folder only. CMake's own way of it names files by where the clone lies, and the compiler cache would
# have to read all that they include. Call it where all files of the target are known; how many files a unit may be said.
function(compile_in_units target)
  if(NOT RENDAK_UNITS)
    return()
  endif()
  set(most ${RENDAK_FILES_A_UNIT} ${ARGN})
  list(GET most -1 most)
  get_target_property(files ${target} SOURCES)
  set(units "")
  foreach(file ${files})
    cmake_path(ABSOLUTE_PATH file OUTPUT_VARIABLE path)
    get_source_file_property(own_options ${path} TARGET_DIRECTORY ${target} COMPILE_OPTIONS)
    get_source_file_property(alone ${path} TARGET_DIRECTORY ${target} SKIP_UNITY_BUILD_INCLUSION)
    if(NOT path MATCHES "\\.cpp$" OR own_options OR alone)
      continue()
    endif()
    cmake_path(RELATIVE_PATH path BASE_DIRECTORY ${CMAKE_SOURCE_DIR} OUTPUT_VARIABLE name)
    cmake_path(GET name PARENT_PATH folder)
    string(MAKE_C_IDENTIFIER ${folder} folder)
    if(NOT DEFINED count_${folder})
      set(count_${folder} 0)
    endif()
    math(EXPR number "${count_${folder}} / ${most}")
    math(EXPR count_${folder} "${count_${folder}} + 1")
    set(unit ${folder}_${number})
    list(APPEND units ${unit})
    string(APPEND text_of_${unit} "#include \"${name}\"\n")
    set_source_files_properties(${file} PROPERTIES HEADER_FILE_ONLY ON)
  endforeach()
  list(REMOVE_DUPLICATES units)
  foreach(unit ${units})
    set(path ${CMAKE_BINARY_DIR}/units/${target}/${unit}.cpp)
    file(CONFIGURE OUTPUT ${path} CONTENT "${text_of_${unit}}" @ONLY)
    target_sources(${target} PRIVATE ${path})
  endforeach()
endfunction()

# What moc says of a target's headers (those beside its files, and those among them), in one file. CMake's own way has
# moc read all of Qt and of the standard library for each header. Call it behind compile_in_units.
function(meta_objects target)
  get_target_property(files ${target} SOURCES)
  set(headers "")
  foreach(file ${files})
    string(REGEX REPLACE "\\.cpp$" ".h" header "${file}")
    if(header MATCHES "^[^$]*\\.h$" AND EXISTS ${CMAKE_CURRENT_SOURCE_DIR}/${header})
      cmake_path(ABSOLUTE_PATH header)
      cmake_path(RELATIVE_PATH header BASE_DIRECTORY ${CMAKE_SOURCE_DIR} OUTPUT_VARIABLE name)
      list(APPEND headers ${name})
    endif()
  endforeach()
  list(REMOVE_DUPLICATES headers)
  list(TRANSFORM headers PREPEND ${CMAKE_SOURCE_DIR}/ OUTPUT_VARIABLE paths)
  set(out ${CMAKE_BINARY_DIR}/units/${target}/meta_objects.cpp)
  file(MAKE_DIRECTORY ${CMAKE_BINARY_DIR}/units/${target})
  get_target_property(moc Qt6::moc IMPORTED_LOCATION)
  add_custom_command(OUTPUT ${out} COMMAND ${CMAKE_SOURCE_DIR}/cmake/moc_all ${moc} ${out} ${headers}
                     DEPENDS ${paths} ${CMAKE_SOURCE_DIR}/cmake/moc_all WORKING_DIRECTORY ${CMAKE_SOURCE_DIR}
                     COMMENT "Meta objects of ${target}" VERBATIM)
  target_sources(${target} PRIVATE ${out})
endfunction()

# Tests and what is made up for them are compiled once: where another build is named here (./check names the optimised
# one), its libraries of them are linked with what this build tests. ninja asks there whether they are still what the
# sources say (the target compiled_tests).
set(RENDAK_TESTS_OF "" CACHE PATH "Build whose compiled tests are taken; empty: they are compiled here")
function(taken_library target archive)
  add_library(${target} STATIC IMPORTED GLOBAL)
  set_target_properties(${target} PROPERTIES IMPORTED_LOCATION ${RENDAK_TESTS_OF}/${archive})
  add_dependencies(${target} compiled_tests)
  set_property(GLOBAL APPEND PROPERTY libraries_taken ${archive})
endfunction()
