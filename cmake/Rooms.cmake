# A room is one folder under src/ and one library target. `orchard_room` is the
# only way to make one, so that all are compiled alike.
#
#   orchard_room(logic SOURCES program.cpp … FACE logic.hpp … ROOMS rules PACKAGES fmt::fmt)
#
# ROOMS are the rooms it may look into, and FACE the public headers that are its own; the test
# tests/house checks the includes against the same lists. A room without SOURCES is headers only. One
# that is for the COMMAND alone is not part of the library that is installed.

# -pthread everywhere: a precompiled header fits only where it is said alike.
set(ORCHARD_COMPILE_OPTIONS -pthread -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor)
# g++ 12 warns of overlapping copies within std::string where there are none (GCC bug 105651).
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  list(APPEND ORCHARD_COMPILE_OPTIONS -Wno-restrict)
  # A tenth less time for a tenth more memory: the compiler collects garbage less often.
  list(APPEND ORCHARD_COMPILE_OPTIONS "SHELL:--param ggc-min-heapsize=524288")
endif()
if(ORCHARD_WARNINGS_AS_ERRORS)
  list(APPEND ORCHARD_COMPILE_OPTIONS -Werror)
endif()
set(ORCHARD_LINK_OPTIONS)
if(ORCHARD_SANITIZE)
  list(APPEND ORCHARD_COMPILE_OPTIONS -fsanitize=${ORCHARD_SANITIZE} -fno-sanitize-recover=all
       -fno-omit-frame-pointer)
  list(APPEND ORCHARD_LINK_OPTIONS -fsanitize=${ORCHARD_SANITIZE})
endif()

# What every target of the project is compiled with; never part of the installed package.
function(orchard_compile_settings target)
  set_target_properties(${target} PROPERTIES CXX_STANDARD 20 CXX_STANDARD_REQUIRED ON
                        CXX_EXTENSIONS OFF)
  target_compile_options(${target} PRIVATE ${ORCHARD_COMPILE_OPTIONS})
  target_link_options(${target} PRIVATE ${ORCHARD_LINK_OPTIONS})
endfunction()

set_property(GLOBAL PROPERTY ORCHARD_ROOMS "")

# Headers of other projects are most of what a room's source files read; read them once.
file(WRITE ${PROJECT_BINARY_DIR}/precompiled.cpp "")
add_library(orchard_precompiled OBJECT ${PROJECT_BINARY_DIR}/precompiled.cpp)
orchard_compile_settings(orchard_precompiled)
set_target_properties(orchard_precompiled PROPERTIES POSITION_INDEPENDENT_CODE ON)
target_link_libraries(orchard_precompiled PRIVATE fmt::fmt absl::flat_hash_map absl::flat_hash_set)
target_precompile_headers(orchard_precompiled PRIVATE
  <absl/container/flat_hash_map.h> <absl/container/flat_hash_set.h> <absl/hash/hash.h>
  <fmt/core.h> <algorithm> <functional> <map> <memory> <mutex> <optional> <set> <span> <string>
  <string_view> <variant> <vector>)

function(orchard_room name)
  cmake_parse_arguments(ROOM "COMMAND" "" "SOURCES;FACE;ROOMS;PACKAGES" ${ARGN})
  list(TRANSFORM ROOM_SOURCES PREPEND ${name}/)
  string(REPLACE "/" "_" short_name ${name})
  set(target orchard_${short_name})
  list(TRANSFORM ROOM_ROOMS REPLACE "/" "_")
  list(TRANSFORM ROOM_ROOMS PREPEND orchard_)
  if(ROOM_COMMAND)
    # Rooms of the command may rest on one another; all others are in the library.
    get_property(command_rooms GLOBAL PROPERTY ORCHARD_COMMAND_ROOMS)
    set(own_rooms)
    foreach(room IN LISTS ROOM_ROOMS)
      if(room IN_LIST command_rooms)
        list(APPEND own_rooms ${room})
      endif()
    endforeach()
    set(ROOM_ROOMS ${own_rooms} ${orchard_library})
    set_property(GLOBAL APPEND PROPERTY ORCHARD_COMMAND_ROOMS ${target})
  else()
    set_property(GLOBAL APPEND PROPERTY ORCHARD_ROOMS ${target})
  endif()
  if(NOT ROOM_SOURCES)
    add_library(${target} INTERFACE)
    set_target_properties(${target} PROPERTIES EXPORT_NAME ${short_name})
    target_link_libraries(${target} INTERFACE ${ROOM_ROOMS} ${ROOM_PACKAGES})
    return()
  endif()
  add_library(${target} STATIC ${ROOM_SOURCES})
  orchard_compile_settings(${target})
  set_target_properties(${target} PROPERTIES EXPORT_NAME ${short_name}
                        POSITION_INDEPENDENT_CODE ON)
  target_compile_features(${target} PUBLIC cxx_std_20)
  target_include_directories(${target}
    PUBLIC $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include>
           $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>
    PRIVATE ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(${target} PUBLIC ${ROOM_ROOMS}
                        PRIVATE ${ROOM_PACKAGES} fmt::fmt absl::flat_hash_map absl::flat_hash_set)
  target_precompile_headers(${target} REUSE_FROM orchard_precompiled)
endfunction()
