# `cmake --install` gives the command, the headers, the demo games and a CMake
# package: find_package(CleverOrchard) with the target CleverOrchard::orchard.
include(CMakePackageConfigHelpers)

get_property(rooms GLOBAL PROPERTY ORCHARD_ROOMS)
set(package_folder ${CMAKE_INSTALL_LIBDIR}/cmake/CleverOrchard)

install(TARGETS ${rooms} orchard EXPORT CleverOrchardTargets
        ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS orchard_command RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
install(DIRECTORY include/orchard DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(DIRECTORY games DESTINATION ${CMAKE_INSTALL_DATADIR}/clever-orchard)
install(EXPORT CleverOrchardTargets NAMESPACE CleverOrchard:: DESTINATION ${package_folder})

set(ORCHARD_FIND_DEPENDENCIES "")
foreach(package IN LISTS ORCHARD_PACKAGES)
  string(APPEND ORCHARD_FIND_DEPENDENCIES "find_dependency(${package})\n")
endforeach()
foreach(entry IN LISTS ORCHARD_PKG_CONFIG_MODULES)
  string(REPLACE "=" " REQUIRED IMPORTED_TARGET GLOBAL " check "${entry}")
  string(APPEND ORCHARD_FIND_DEPENDENCIES "pkg_check_modules(${check})\n")
endforeach()
configure_package_config_file(cmake/CleverOrchardConfig.cmake.in
  ${PROJECT_BINARY_DIR}/CleverOrchardConfig.cmake INSTALL_DESTINATION ${package_folder})
write_basic_package_version_file(${PROJECT_BINARY_DIR}/CleverOrchardConfigVersion.cmake
                                 COMPATIBILITY SameMinorVersion)
install(FILES cmake/FindCadical.cmake
              ${PROJECT_BINARY_DIR}/CleverOrchardConfig.cmake
              ${PROJECT_BINARY_DIR}/CleverOrchardConfigVersion.cmake
        DESTINATION ${package_folder})
