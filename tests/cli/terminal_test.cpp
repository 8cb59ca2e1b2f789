// Sittings on a terminal: drawn in place, with completion.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/files.hpp"
#include "support/terminal.hpp"

namespace orchard::terminal_test {
namespace {

using testing::game_path;
using ::testing::HasSubstr;
using testing::run_on_terminal;

std::size_t count(const std::string& text, const std::string& what) {
  std::size_t result = 0;
  for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + 1)) {
    ++result;
  }
  return result;
}

TEST(Terminal, TheBoardStaysInPlace) {
  const std::string shown =
      run_on_terminal({"play", game_path("espalier_3x3"), "--seat", "west=random", "--pause", "0"},
                      "east> ", {"tie 1 1", "quit"});
  EXPECT_GE(count(shown, "\x1b[H\x1b[2J"), 2u);  // a page for each ply
  EXPECT_THAT(shown, HasSubstr("last: west (tie "));
  EXPECT_THAT(shown, HasSubstr("\x1b[1;38;5;75m♠\x1b[0m"));  // in the first role's colour
  EXPECT_THAT(shown, HasSubstr("west plays (tie "));
}

TEST(Terminal, TabCompletesAndTheArrowBringsLinesBack) {
  const std::string shown =
      run_on_terminal({"play", game_path("snails"), "--seat", "grey=random", "--pause", "0"},
                      "amber> ", {"why term\t", "\x1b[A", "quit"});
  EXPECT_THAT(shown, HasSubstr("why terminal"));
  EXPECT_GE(count(shown, "terminal   does not hold"), 2u);  // asked, and asked again
}

TEST(Terminal, HandsAreHiddenBetweenPeople) {
  const std::string shown = run_on_terminal(
      {"play", game_path("hedgerow"), "--seed", "3", "--pause", "0"}, "nobody else looks", {});
  EXPECT_THAT(shown, HasSubstr("press Enter when nobody else looks"));
  // On a screen of its own, which is left in the end; what stood on the terminal before stays.
  EXPECT_EQ(count(shown, "\x1b[?1049h"), 1u);
  EXPECT_EQ(count(shown, "\x1b[?1049l"), 1u);
  EXPECT_EQ(count(shown, "\x1b[3J"), 0u);
}

// Of people who choose at once none sees what another one has typed, nor gets it with the arrow
// keys.
TEST(Terminal, ChoicesMadeAtOnceAreTakenOffTheScreen) {
  const std::string shown = run_on_terminal({"play", game_path("market_day"), "--pause", "0"}, "> ",
                                            {"1", "\x1b[A\x1b[A"});
  EXPECT_GE(count(shown, "\x1b[1A\x1b[2K"), 1u);
  EXPECT_THAT(shown, HasSubstr(" has chosen"));
  EXPECT_LE(count(shown, "> 1"), 1u);  // as it was typed, and not again
}

TEST(Terminal, OpponentsAreWatchedToTheEnd) {
  const std::string shown =
      run_on_terminal({"play", game_path("espalier_3x3"), "--seat", "west=random", "--seat",
                       "east=random", "--pause", "0"},
                      "never shown", {});
  EXPECT_THAT(shown, HasSubstr("result: "));
}

}  // namespace
}  // namespace orchard::terminal_test
