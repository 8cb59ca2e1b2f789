# CaDiCaL, a SAT solver, from Debian's package, which brings no CMake file of its own.
#
#   cadical::cadical   the library
find_path(CADICAL_INCLUDE_DIR cadical.hpp)
find_library(CADICAL_LIBRARY cadical)
include(FindPackageHandleStandardArgs)
find_package_handle_standard_args(Cadical REQUIRED_VARS CADICAL_LIBRARY CADICAL_INCLUDE_DIR)
if(Cadical_FOUND AND NOT TARGET cadical::cadical)
  add_library(cadical::cadical UNKNOWN IMPORTED)
  set_target_properties(cadical::cadical PROPERTIES
                        IMPORTED_LOCATION "${CADICAL_LIBRARY}"
                        INTERFACE_INCLUDE_DIRECTORIES "${CADICAL_INCLUDE_DIR}")
endif()
mark_as_advanced(CADICAL_INCLUDE_DIR CADICAL_LIBRARY)
