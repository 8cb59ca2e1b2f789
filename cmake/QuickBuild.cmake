# What makes building quicker where the machine has it; nothing here is needed.
#
#   ccache   a compiler cache: a file compiled before, anywhere on the machine, is not compiled again
#   mold     a linker that takes a tenth of a second where the usual one takes several
include(CheckLinkerFlag)

option(ORCHARD_QUICK_BUILD "Use a compiler cache and a faster linker where they are installed" ON)
if(NOT ORCHARD_QUICK_BUILD)
  return()
endif()

find_program(ORCHARD_CCACHE ccache)
if(ORCHARD_CCACHE AND NOT CMAKE_CXX_COMPILER_LAUNCHER)
  # Precompiled headers are part of what is hashed; without these two settings they are never found.
  set(CMAKE_CXX_COMPILER_LAUNCHER ${CMAKE_COMMAND} -E env
      CCACHE_SLOPPINESS=pch_defines,time_macros CCACHE_PCH_EXTSUM=true ${ORCHARD_CCACHE})
  if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
    add_compile_options(-fpch-preprocess)
  endif()
endif()

check_linker_flag(CXX -fuse-ld=mold ORCHARD_HAS_MOLD)
if(ORCHARD_HAS_MOLD)
  add_link_options(-fuse-ld=mold)
endif()
