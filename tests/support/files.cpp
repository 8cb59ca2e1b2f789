#include "support/files.hpp"

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <stdexcept>

namespace orchard::testing {

std::string read_file(const std::string& path) {
  std::ifstream stream(path, std::ios::binary);
  if (!stream) throw std::runtime_error("cannot read " + path);
  std::ostringstream text;
  text << stream.rdbuf();
  return text.str();
}

std::string source_path(std::string_view relative) {
  return std::string(ORCHARD_SOURCE_FOLDER "/") + std::string(relative);
}

std::string game_path(std::string_view name) {
  return source_path("games/" + std::string(name) + ".gdl");
}

namespace {

std::vector<std::string> descriptions_in(const std::string& folder) {
  std::vector<std::string> games;
  for (const auto& entry : std::filesystem::directory_iterator(source_path(folder))) {
    if (entry.path().extension() == ".gdl") games.push_back(entry.path());
  }
  std::ranges::sort(games);
  return games;
}

}  // namespace

std::vector<std::string> all_demo_games() {
  return descriptions_in("games");
}

std::vector<std::string> demo_games() {
  std::vector<std::string> games = all_demo_games();
  std::erase_if(games, [](const std::string& path) {
    const std::string name = std::filesystem::path(path).stem();
    return name == "terrace" || name == "terrace_rays" || name == "stakes";
  });
  return games;
}

std::vector<std::string> corpus_games() {
  return descriptions_in("tests/corpus");
}

TemporaryFolder::TemporaryFolder() {
  std::string pattern = (std::filesystem::temp_directory_path() / "orchard-test-XXXXXX").string();
  if (::mkdtemp(pattern.data()) == nullptr) throw std::runtime_error("no temporary folder");
  folder_ = pattern;
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  std::filesystem::remove_all(folder_, ignored);
}

std::string TemporaryFolder::path(std::string_view name) const {
  return folder_ + "/" + std::string(name);
}

std::string TemporaryFolder::write(std::string_view name, std::string_view contents) const {
  std::ofstream stream(path(name), std::ios::binary);
  stream << contents;
  return path(name);
}

}  // namespace orchard::testing
