# Debian packages, made by `scripts/package`: the shared library, what developing with it needs, the
# command, and the documentation.
set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME clever-orchard)
set(CPACK_PACKAGE_VENDOR "Clever Orchard")
set(CPACK_PACKAGE_CONTACT "The Clever Orchard authors <orchard@example.org>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "${PROJECT_DESCRIPTION}")
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_COMPONENTS_ALL library development command documentation)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_RELEASE 1)
set(CPACK_DEBIAN_PACKAGE_CONTROL_STRICT_PERMISSION ON)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
# The other packages of the same build have the library that the command needs.
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS_PRIVATE_DIRS ${PROJECT_BINARY_DIR} ${PROJECT_BINARY_DIR}/src)

set(version "${PROJECT_VERSION}-${CPACK_DEBIAN_PACKAGE_RELEASE}")
set(about "The rules of a turn-based game are written in the open
Game Description Language. Legal moves, pictures, opponents,
counts, proofs and checks of the rules follow from them.")
macro(orchard_debian component name section summary)
  string(TOUPPER ${component} upper)
  set(CPACK_DEBIAN_${upper}_PACKAGE_NAME ${name})
  set(CPACK_DEBIAN_${upper}_PACKAGE_SECTION ${section})
  set(CPACK_COMPONENT_${upper}_DESCRIPTION "${summary}\n${about}")
  # What every package of Debian has: its copyright, and its changes.
  install(FILES LICENSE DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} RENAME copyright
          COMPONENT ${component})
  install(FILES ${PROJECT_BINARY_DIR}/changelog.Debian.gz
          DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} COMPONENT ${component})
endmacro()
orchard_debian(library libclever-orchard${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR} libs
               "turn-based games derived from their rules: library")
orchard_debian(development libclever-orchard-dev libdevel
               "turn-based games derived from their rules: development files")
orchard_debian(command clever-orchard devel "turn-based games derived from their rules: command")
orchard_debian(documentation clever-orchard-doc doc
               "turn-based games derived from their rules: documentation")
set(CPACK_DEBIAN_PACKAGE_GENERATE_SHLIBS ON)
set(CPACK_DEBIAN_PACKAGE_GENERATE_SHLIBS_POLICY ">=")
file(WRITE ${PROJECT_BINARY_DIR}/debian/triggers "activate-noawait ldconfig\n")
set(CPACK_DEBIAN_LIBRARY_PACKAGE_CONTROL_EXTRA ${PROJECT_BINARY_DIR}/debian/triggers)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_DEPENDS
    "${CPACK_DEBIAN_LIBRARY_PACKAGE_NAME} (= ${version})")
set(CPACK_DEBIAN_COMMAND_PACKAGE_DEPENDS
    "${CPACK_DEBIAN_LIBRARY_PACKAGE_NAME} (= ${version}), fonts-dejavu-core")
# The editor of the desk; without it a plain text field is shown.
set(CPACK_DEBIAN_COMMAND_PACKAGE_RECOMMENDS libjs-codemirror)
set(CPACK_DEBIAN_COMMAND_PACKAGE_SUGGESTS clever-orchard-doc)
set(CPACK_DEBIAN_DOCUMENTATION_PACKAGE_ARCHITECTURE all)

# The changes as Debian wants them: one entry, that of this version.
string(TIMESTAMP now "%a, %d %b %Y %H:%M:%S +0000" UTC)
file(WRITE ${PROJECT_BINARY_DIR}/changelog.Debian
"clever-orchard (${version}) unstable; urgency=medium

  * Version ${PROJECT_VERSION}; CHANGELOG.md has what is new.

 -- The Clever Orchard authors <orchard@example.org>  ${now}
")
execute_process(COMMAND gzip -9nkf ${PROJECT_BINARY_DIR}/changelog.Debian)
include(CPack)
