// Files that tests read and write.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace orchard::testing {

std::string read_file(const std::string& path);
std::string source_path(std::string_view relative);  // in the project
std::string game_path(std::string_view name);        // "espalier" → …/games/espalier.gdl
std::vector<std::string> all_demo_games();           // paths of all descriptions, sorted
// Those that every test can afford: the heaviest have tests of their own.
std::vector<std::string> demo_games();
std::vector<std::string> corpus_games();  // those in other styles

// A folder of its own that is gone afterwards.
class TemporaryFolder {
 public:
  TemporaryFolder();
  ~TemporaryFolder();
  TemporaryFolder(const TemporaryFolder&) = delete;
  std::string path(std::string_view name) const;
  std::string write(std::string_view name, std::string_view contents) const;  // gives the path

 private:
  std::string folder_;
};

}  // namespace orchard::testing
