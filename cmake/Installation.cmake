# `cmake --install` gives the command, its manual, the headers, the library, the demo games and a
# CMake package: find_package(CleverOrchard) with the target CleverOrchard::orchard.
#
# Components: library (the shared library; with ORCHARD_SHARED), development (headers, what links,
# CMake package, pkg-config), command (orchard, its manual, completions, demo games), documentation.
include(CMakePackageConfigHelpers)

set(package_folder ${CMAKE_INSTALL_LIBDIR}/cmake/CleverOrchard)

set(ORCHARD_FIND_DEPENDENCIES "")
if(ORCHARD_SHARED)
  install(TARGETS orchard_shared EXPORT CleverOrchardTargets
          LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR} COMPONENT library
          NAMELINK_COMPONENT development)
  configure_file(cmake/clever-orchard.pc.in clever-orchard.pc @ONLY)
  install(FILES ${PROJECT_BINARY_DIR}/clever-orchard.pc
          DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig COMPONENT development)
else()
  get_property(rooms GLOBAL PROPERTY ORCHARD_ROOMS)
  install(TARGETS ${rooms} orchard EXPORT CleverOrchardTargets
          ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR} COMPONENT development)
  # Whoever links archives needs what these need.
  foreach(package IN LISTS ORCHARD_PACKAGES)
    string(APPEND ORCHARD_FIND_DEPENDENCIES "find_dependency(${package})\n")
  endforeach()
  foreach(entry IN LISTS ORCHARD_PKG_CONFIG_MODULES)
    string(REPLACE "=" " REQUIRED IMPORTED_TARGET GLOBAL " check "${entry}")
    string(APPEND ORCHARD_FIND_DEPENDENCIES "pkg_check_modules(${check})\n")
  endforeach()
endif()

install(DIRECTORY include/orchard DESTINATION ${CMAKE_INSTALL_INCLUDEDIR} COMPONENT development)
install(EXPORT CleverOrchardTargets NAMESPACE CleverOrchard:: DESTINATION ${package_folder}
        COMPONENT development)
configure_package_config_file(cmake/CleverOrchardConfig.cmake.in
  ${PROJECT_BINARY_DIR}/CleverOrchardConfig.cmake INSTALL_DESTINATION ${package_folder})
write_basic_package_version_file(${PROJECT_BINARY_DIR}/CleverOrchardConfigVersion.cmake
                                 COMPATIBILITY SameMinorVersion)
install(FILES cmake/FindCadical.cmake
              ${PROJECT_BINARY_DIR}/CleverOrchardConfig.cmake
              ${PROJECT_BINARY_DIR}/CleverOrchardConfigVersion.cmake
        DESTINATION ${package_folder} COMPONENT development)

install(TARGETS orchard_command RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR} COMPONENT command)
install(DIRECTORY games DESTINATION ${CMAKE_INSTALL_DATADIR}/clever-orchard COMPONENT command)
set(manual_suffix .1)
if(ORCHARD_SHARED)
  set(manual_suffix .1.gz)
endif()
install(DIRECTORY ${PROJECT_BINARY_DIR}/manual/man1 DESTINATION ${CMAKE_INSTALL_MANDIR}
        COMPONENT command
        FILES_MATCHING PATTERN "*${manual_suffix}")
install(FILES ${PROJECT_BINARY_DIR}/manual/bash/orchard
        DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions COMPONENT command)
install(FILES ${PROJECT_BINARY_DIR}/manual/zsh/_orchard
        DESTINATION ${CMAKE_INSTALL_DATADIR}/zsh/vendor-completions COMPONENT command)
install(DIRECTORY docs/ DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT documentation
        PATTERN "screenshots" EXCLUDE)
install(FILES README.md DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT documentation)
install(DIRECTORY docs/screenshots DESTINATION ${CMAKE_INSTALL_DOCDIR}/docs
        COMPONENT documentation)
install(DIRECTORY examples DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT documentation)

include(Packages)
