// The house keeps its own rules: who may include whom, what is listed once, what is documented.
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>
#include <sstream>

#include "base/option_table.hpp"
#include "support/files.hpp"

namespace orchard {
namespace {

using testing::read_file;
using testing::source_path;

std::vector<std::filesystem::path> files_under(const std::string& folder) {
  std::vector<std::filesystem::path> result;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(source_path(folder))) {
    const auto extension = entry.path().extension();
    if (extension == ".cpp" || extension == ".hpp") result.push_back(entry.path());
  }
  std::ranges::sort(result);
  return result;
}

// The rooms that each room names in src/CMakeLists.txt.
std::map<std::string, std::set<std::string>> rooms_from_build() {
  std::map<std::string, std::set<std::string>> rooms;
  const std::string text = read_file(source_path("src/CMakeLists.txt"));
  const std::regex room(R"(orchard_room\((\w+)([^)]*)\))");
  const std::set<std::string> keywords{"SOURCES", "ROOMS", "PACKAGES"};
  for (auto at = std::sregex_iterator(text.begin(), text.end(), room); at != std::sregex_iterator();
       ++at) {
    std::istringstream words((*at)[2]);
    std::string section;
    std::set<std::string>& used = rooms[(*at)[1]];
    for (std::string word; words >> word;) {
      if (keywords.contains(word)) {
        section = word;
      } else if (section == "ROOMS") {
        used.insert(word);
      }
    }
  }
  for (bool changed = true; changed;) {  // close over what the used rooms use
    changed = false;
    for (auto& [name, used] : rooms) {
      for (const std::string& other : std::set<std::string>(used)) {
        for (const std::string& further : rooms.at(other)) {
          changed = used.insert(further).second || changed;
        }
      }
    }
  }
  return rooms;
}

TEST(House, RoomsIncludeOnlyRoomsBelow) {
  const auto rooms = rooms_from_build();
  ASSERT_GE(rooms.size(), 9u);
  const std::regex include(R"re(#include "(\w+)/)re");
  for (const auto& path : files_under("src")) {
    const std::string room = std::filesystem::relative(path, source_path("src")).begin()->string();
    if (room == "cli") continue;  // sees all
    const std::string text = read_file(path);
    for (auto at = std::sregex_iterator(text.begin(), text.end(), include);
         at != std::sregex_iterator(); ++at) {
      const std::string other = (*at)[1];
      if (other == "orchard" || other == room) continue;
      EXPECT_TRUE(rooms.at(room).contains(other)) << path << " includes from " << other;
    }
  }
}

TEST(House, RoomsMakeNoCircle) {
  for (const auto& [name, used] : rooms_from_build()) EXPECT_FALSE(used.contains(name)) << name;
}

TEST(House, CoreNeitherPrintsNorExits) {
  const std::regex forbidden(R"(\b(std::cout|std::cerr|printf|fmt::print|std::exit|std::abort)\b)");
  for (const auto& path : files_under("src")) {
    if (path.parent_path().filename() == "cli") continue;
    EXPECT_FALSE(std::regex_search(read_file(path), forbidden)) << path;
  }
}

TEST(House, EveryHeaderOfThePublicFaceIsInTheHeaderForAll) {
  const std::string all = read_file(source_path("include/orchard/orchard.hpp"));
  for (const auto& path : files_under("include/orchard")) {
    const std::string name = path.filename();
    if (name == "orchard.hpp") continue;
    EXPECT_NE(all.find("\"orchard/" + name + "\""), std::string::npos) << name;
    EXPECT_EQ(read_file(path).find("#include \"" + name), std::string::npos) << name;
  }
}

TEST(House, EveryOptionIsReadByACommand) {
  std::string commands;
  for (const auto& path : files_under("src/cli")) commands += read_file(path);
  for (const OptionFacts& option : option_table()) {
    EXPECT_NE(commands.find("\"" + std::string(option.name) + "\""), std::string::npos)
        << option.name << " is read nowhere";
    EXPECT_FALSE(option.help.empty());
  }
}

// The part of docs/COMMANDS.md that is made from the table.
std::string documented_commands() {
  std::ostringstream text;
  for (const CommandFacts& command : command_table()) {
    const std::string form = command.form.empty() ? "" : std::string(command.form) + " ";
    text << "\n## `orchard " << command.name << " " << form << command.arguments
         << (command.more.empty() ? "" : " ") << command.more << "`\n\n"
         << command.summary << ". " << command.details
         << "\n\n| option | meaning |\n| --- | --- |\n";
    for (const OptionFacts& option : option_table()) {
      if (option.commands == "*" || !option.belongs_to(command.name)) continue;
      std::string value(option.value);
      text << "| `--" << option.name << (value.empty() ? "" : " " + value) << "` | " << option.help;
      if (!option.initial.empty()) text << " (" << option.initial << ")";
      text << " |\n";
    }
  }
  text << "\n## Options of every command\n\n| option | meaning |\n| --- | --- |\n"
       << "| `--help` | describes the command |\n";
  for (const OptionFacts& option : option_table()) {
    if (option.commands != "*") continue;
    std::string value(option.value);
    text << "| `--" << option.name << (value.empty() ? "" : " " + value) << "` | " << option.help;
    if (!option.initial.empty()) text << " (" << option.initial << ")";
    text << " |\n";
  }
  return text.str();
}

TEST(House, CommandsAreDocumentedFromTheTable) {
  const std::string page = read_file(source_path("docs/COMMANDS.md"));
  const std::string begin = "<!-- from the option table -->\n";
  const std::string end = "\n<!-- end of the option table -->";
  const std::size_t from = page.find(begin);
  const std::size_t to = page.find(end);
  ASSERT_NE(from, std::string::npos);
  ASSERT_NE(to, std::string::npos);
  if (std::getenv("ORCHARD_WRITE_DOCUMENTS") != nullptr) {
    std::ofstream(source_path("docs/COMMANDS.md"))
        << page.substr(0, from + begin.size()) << documented_commands() << page.substr(to);
    return;
  }
  EXPECT_EQ(page.substr(from + begin.size(), to - from - begin.size()), documented_commands())
      << "ORCHARD_WRITE_DOCUMENTS=1 in the environment brings it up to date";
}

TEST(House, ScreenshotsAreLinkedFromTheReadme) {
  const std::string readme = read_file(source_path("README.md"));
  std::size_t count = 0;
  for (const auto& entry : std::filesystem::directory_iterator(source_path("docs/screenshots"))) {
    ++count;
    EXPECT_NE(readme.find(entry.path().filename().string()), std::string::npos) << entry.path();
  }
  EXPECT_LT(count, 20u);
}

}  // namespace
}  // namespace orchard
