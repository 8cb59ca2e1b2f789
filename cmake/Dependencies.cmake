# The packages the rooms are built on. The installed package looks for the same
# list, so each name stands only here: name, minimum version, and `config` where
# the package brings its own CMake file.
set(ORCHARD_PACKAGES
    "fmt 9 CONFIG"
    "absl CONFIG"
    "nlohmann_json 3.11 CONFIG"
    "pugixml CONFIG"
    "SQLiteCpp CONFIG"
    "Eigen3 3.4 CONFIG"
    "hwy CONFIG"
    "xbyak CONFIG"
    "Cadical"
    "Threads"
    "PkgConfig")
# Libraries without a CMake file of their own, found by pkg-config.
set(ORCHARD_PKG_CONFIG_MODULES xxhash=libxxhash rsvg=librsvg-2.0 clp=clp)

foreach(package IN LISTS ORCHARD_PACKAGES)
  separate_arguments(package)
  find_package(${package} REQUIRED)
endforeach()
foreach(entry IN LISTS ORCHARD_PKG_CONFIG_MODULES)
  string(REPLACE "=" ";" entry "${entry}")
  list(GET entry 0 name)
  list(GET entry 1 module)
  pkg_check_modules(${name} REQUIRED IMPORTED_TARGET GLOBAL ${module})
endforeach()

# Needed by the command only.
find_package(CLI11 2.1 CONFIG REQUIRED)
find_package(spdlog 1.10 CONFIG REQUIRED)
pkg_check_modules(libedit REQUIRED IMPORTED_TARGET libedit)
pkg_check_modules(libgit2 REQUIRED IMPORTED_TARGET libgit2)
pkg_check_modules(httplib REQUIRED IMPORTED_TARGET cpp-httplib)
