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

namespace orchard::house_test {
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

// What src/CMakeLists.txt says of a room.
struct Room {
  std::set<std::string> used;  // rooms, with all that they use
  std::set<std::string> face;  // public headers
};

std::map<std::string, Room> rooms_from_build() {
  std::map<std::string, Room> rooms;
  const std::string text = read_file(source_path("src/CMakeLists.txt"));
  const std::regex room(R"(orchard_room\(([\w/]+)([^)]*)\))");
  const std::set<std::string> keywords{"SOURCES", "FACE", "ROOMS", "PACKAGES"};
  for (auto at = std::sregex_iterator(text.begin(), text.end(), room); at != std::sregex_iterator();
       ++at) {
    std::istringstream words((*at)[2]);
    std::string section;
    Room& made = rooms[(*at)[1]];
    for (std::string word; words >> word;) {
      if (keywords.contains(word)) {
        section = word;
      } else if (section == "ROOMS") {
        made.used.insert(word);
      } else if (section == "FACE") {
        made.face.insert(word);
      }
    }
  }
  for (bool changed = true; changed;) {  // close over what the used rooms use
    changed = false;
    for (auto& [name, made] : rooms) {
      for (const std::string& other : std::set<std::string>(made.used)) {
        for (const std::string& further : rooms.at(other).used) {
          changed = made.used.insert(further).second || changed;
        }
      }
    }
  }
  return rooms;
}

// The files that a file includes, of the project's own.
std::vector<std::string> included_by(const std::filesystem::path& path) {
  const std::regex include(R"re(\n#include "([^"]+)")re");
  const std::string text = read_file(path);
  std::vector<std::string> result;
  for (auto at = std::sregex_iterator(text.begin(), text.end(), include);
       at != std::sregex_iterator(); ++at) {
    result.push_back((*at)[1]);
  }
  return result;
}

// The room that each public header belongs to; the header for all belongs to none.
std::map<std::string, std::string> homes_of_headers(const std::map<std::string, Room>& rooms) {
  std::map<std::string, std::string> homes;
  for (const auto& [name, room] : rooms) {
    for (const std::string& header : room.face) {
      EXPECT_TRUE(homes.emplace("orchard/" + header, name).second) << header << " has two homes";
    }
  }
  return homes;
}

TEST(House, RoomsIncludeOnlyRoomsBelow) {
  const auto rooms = rooms_from_build();
  const auto homes = homes_of_headers(rooms);
  ASSERT_GE(rooms.size(), 30u);
  std::size_t looked_at = 0;
  for (const auto& path : files_under("src")) {
    const auto relative = std::filesystem::relative(path, source_path("src"));
    const std::string room = relative.parent_path().string();
    if (room == "cli") continue;  // sees all
    ASSERT_TRUE(rooms.contains(room)) << path << " is in no room";
    for (const std::string& header : included_by(path)) {
      ++looked_at;
      const auto home = homes.find(header);
      const std::string other =
          home != homes.end() ? home->second : std::filesystem::path(header).parent_path().string();
      EXPECT_TRUE(other == room || rooms.at(room).used.contains(other))
          << path << " includes " << header << " of " << other;
    }
  }
  EXPECT_GT(looked_at, 500u);
}

TEST(House, PublicHeadersIncludeOnlyThoseOfRoomsBelow) {
  const auto rooms = rooms_from_build();
  const auto homes = homes_of_headers(rooms);
  for (const auto& path : files_under("include/orchard")) {
    const std::string name = "orchard/" + path.filename().string();
    if (name == "orchard/orchard.hpp") continue;
    ASSERT_TRUE(homes.contains(name)) << name << " belongs to no room";
    const std::string& room = homes.at(name);
    for (const std::string& header : included_by(path)) {
      ASSERT_TRUE(homes.contains(header)) << name << " includes " << header;
      EXPECT_TRUE(homes.at(header) == room || rooms.at(room).used.contains(homes.at(header)))
          << name << " includes " << header;
    }
  }
}

TEST(House, RoomsMakeNoCircle) {
  for (const auto& [name, room] : rooms_from_build()) {
    EXPECT_FALSE(room.used.contains(name)) << name;
  }
}

// The table of docs/ARCHITECTURE.md, against the rooms that are built and what they use.
TEST(House, TheTableOfRoomsIsTrue) {
  const std::string page = read_file(source_path("docs/ARCHITECTURE.md"));
  std::set<std::string> described{"cli"};
  const std::regex row(R"(\n\| (\d+) \| `([\w/]+)` \|)");
  std::map<std::string, int> floors;
  for (auto at = std::sregex_iterator(page.begin(), page.end(), row); at != std::sregex_iterator();
       ++at) {
    described.insert((*at)[2]);
    floors[(*at)[2]] = std::stoi((*at)[1]);
  }
  std::set<std::string> built{"cli"};
  const auto rooms = rooms_from_build();
  for (const auto& [name, room] : rooms) {
    built.insert(name);
    for (const std::string& other : room.used) {
      EXPECT_LT(floors[other], floors[name]) << name << " uses " << other;
    }
  }
  EXPECT_EQ(described, built);
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

std::string documented_prompt() {
  std::string text = "\n| typed | does |\n| --- | --- |\n";
  for (const PromptFacts& facts : prompt_table()) {
    const std::string typed =
        std::string(facts.word) + (facts.word.empty() ? "" : " ") + std::string(facts.arguments);
    text += "| " +
            (facts.word.empty() ? typed
                                : "`" + typed.substr(0, typed.find_last_not_of(' ') + 1) + "`") +
            " | " + std::string(facts.does) + " |\n";
  }
  return text;
}

// Holds a part of docs/COMMANDS.md against what it is made from, or makes it anew.
void expect_documented(const std::string& name, const std::string& made) {
  const std::string page = read_file(source_path("docs/COMMANDS.md"));
  const std::string begin = "<!-- from the " + name + " -->\n";
  const std::string end = "\n<!-- end of the " + name + " -->";
  const std::size_t from = page.find(begin);
  const std::size_t to = page.find(end);
  ASSERT_NE(from, std::string::npos);
  ASSERT_NE(to, std::string::npos);
  if (std::getenv("ORCHARD_WRITE_DOCUMENTS") != nullptr) {
    std::ofstream(source_path("docs/COMMANDS.md"))
        << page.substr(0, from + begin.size()) << made << page.substr(to);
    return;
  }
  EXPECT_EQ(page.substr(from + begin.size(), to - from - begin.size()), made)
      << "ORCHARD_WRITE_DOCUMENTS=1 in the environment brings it up to date";
}

TEST(House, CommandsAreDocumentedFromTheTable) {
  expect_documented("option table", documented_commands());
  expect_documented("words of the prompt", documented_prompt());
}

// A few in the README, which links the gallery with the others.
TEST(House, ScreenshotsAreShown) {
  const std::string readme = read_file(source_path("README.md"));
  const std::string gallery = read_file(source_path("docs/GALLERY.md"));
  EXPECT_NE(readme.find("(docs/GALLERY.md)"), std::string::npos);
  std::size_t count = 0;
  std::size_t in_readme = 0;
  for (const auto& entry : std::filesystem::directory_iterator(source_path("docs/screenshots"))) {
    ++count;
    const std::string name = "screenshots/" + entry.path().filename().string() + ")";
    const bool shown = readme.find("docs/" + name) != std::string::npos;
    in_readme += shown ? 1 : 0;
    EXPECT_TRUE(shown || gallery.find(name) != std::string::npos) << entry.path();
  }
  EXPECT_LT(count, 20u);
  EXPECT_LE(in_readme, 8u);
  EXPECT_LT(readme.find("!["), 1200u) << "a picture on the first screen";
}

}  // namespace
}  // namespace orchard::house_test
