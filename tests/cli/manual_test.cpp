// Manual pages and completions say what the option table says, and shells take them.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <sstream>

#include "base/option_table.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::manual_test {
namespace {

using ::testing::Contains;
using ::testing::HasSubstr;
using ::testing::IsSupersetOf;
using ::testing::Not;

const std::string folder = ORCHARD_MANUAL_FOLDER;

std::string without_escapes(std::string text) {
  for (std::size_t at = text.find('\\'); at != std::string::npos; at = text.find('\\', at)) {
    text.erase(at, text[at + 1] == '-' || text[at + 1] == '&' ? 1 : 3);
  }
  return text;
}

TEST(Manual, HasAPageForEveryCommandWithEveryOption) {
  const std::string all = read_file(folder + "/man1/orchard.1");
  for (const CommandFacts& command : command_table()) {
    const std::string name(command.name);
    EXPECT_THAT(all, HasSubstr("orchard\\-" + name));
    const std::string page = without_escapes(read_file(folder + "/man1/orchard-" + name + ".1"));
    EXPECT_THAT(page,
                HasSubstr(".SH NAME\norchard-" + name + " - " + std::string(command.summary)));
    for (const OptionFacts& option : option_table()) {
      if (!option.belongs_to(command.name)) continue;
      EXPECT_THAT(page, HasSubstr("--" + std::string(option.name)));
      EXPECT_THAT(page, HasSubstr(std::string(option.help).substr(0, 20)));
    }
    // No line is taken for a request that is none.
    std::istringstream lines(read_file(folder + "/man1/orchard-" + name + ".1"));
    for (std::string line; std::getline(lines, line);) {
      if (!line.starts_with('.')) continue;
      EXPECT_THAT((std::vector<std::string>{".TH", ".SH", ".TP", ".BR"}),
                  Contains(line.substr(0, 3)));
    }
  }
}

// What bash offers for the last of these words.
std::vector<std::string> offered(const std::vector<std::string>& words) {
  std::string line;
  for (const std::string& word : words) line += " '" + word + "'";
  const std::string command = std::filesystem::path(ORCHARD_COMMAND).parent_path().string();
  const ProcessResult result =
      run_process({"/bin/bash", "-c",
                   "PATH='" + command + "':\"$PATH\"; compopt() { :; }; source '" + folder +
                       "/bash/orchard'; COMP_WORDS=(" + line +
                       "); COMP_CWORD=" + std::to_string(words.size() - 1) +
                       "; _orchard; printf '%s\\n' \"${COMPREPLY[@]}\""});
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_EQ(result.err, "");
  std::vector<std::string> found;
  std::istringstream stream(result.out);
  for (std::string word; std::getline(stream, word);) found.push_back(word);
  return found;
}

TEST(Completion, OffersCommandsOptionsFilesRolesAndValues) {
  EXPECT_THAT(offered({"orchard", "c"}), IsSupersetOf({"check", "cases", "census"}));
  EXPECT_THAT(offered({"orchard", "help", "sh"}), Contains("show"));
  EXPECT_THAT(offered({"orchard", "show", "--str"}), Contains("--strip"));
  EXPECT_THAT(offered({"orchard", "show", "--dep"}), Not(Contains("--depth")));
  EXPECT_THAT(offered({"orchard", "census", "--dep"}), Contains("--depth"));
  const std::string espalier = game_path("espalier");
  EXPECT_THAT(offered({"orchard", "show", source_path("games/esp")}), Contains(espalier));
  EXPECT_THAT(offered({"orchard", "show", source_path("games/esp")}),
              Not(Contains(source_path("games/espalier.cases"))));
  EXPECT_THAT(offered({"orchard", "cases", espalier, "--file", source_path("games/espalier.c")}),
              Contains(source_path("games/espalier.cases")));
  EXPECT_EQ(offered({"orchard", "show", espalier, "--view", ""}),
            (std::vector<std::string>{"east", "west"}));
  EXPECT_EQ(offered({"orchard", "play", espalier, "--seat", "w"}),
            (std::vector<std::string>{"west="}));
  EXPECT_THAT(offered({"orchard", "show", espalier, "--light", ""}), Contains("dark"));
  EXPECT_THAT(offered({"orchard", "export", "ai"}), Contains("aiger"));
}

TEST(Completion, IsReadByShells) {
  EXPECT_EQ(run_process({"/bin/bash", "-n", folder + "/bash/orchard"}).err, "");
  if (!std::filesystem::exists("/usr/bin/zsh")) GTEST_SKIP() << "no zsh on this machine";
  EXPECT_EQ(run_process({"/usr/bin/zsh", "-n", folder + "/zsh/_orchard"}).err, "");
}

}  // namespace
}  // namespace orchard::testing::manual_test
