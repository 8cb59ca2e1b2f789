// Opponents in the seats of `play`, and drawings that are read by the command.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard {
namespace {

using testing::game_path;
using ::testing::HasSubstr;
using ::testing::Not;
using testing::run_orchard;

TEST(PlayOpponents, SitInAnySeatOfAnyKindOfGame) {
  const struct {
    const char* game;
    std::vector<std::string> seats;
  } sittings[] = {{"espalier_3x3", {"east=careful", "west=playouts:100"}},
                  {"market_day", {"hill=lookahead:1", "vale=playouts:100"}},
                  {"snails", {"amber=perfect", "grey=greedy"}},
                  {"sprinklers", {"gardener=perfect"}},
                  {"pickers", {"ann=careful", "bob=greedy", "cas=playouts:50"}},
                  {"cellar", {"mouse=playouts:64"}},
                  {"barrow_lane", {"upper=lookahead:1", "lower=greedy"}}};
  for (const auto& [game, seats] : sittings) {
    SCOPED_TRACE(game);
    std::vector<std::string> call{"play", game_path(game)};
    for (const std::string& seat : seats) {
      call.emplace_back("--seat");
      call.push_back(seat);
    }
    const auto result = run_orchard(call);
    EXPECT_EQ(result.status, 0) << result.err;
    EXPECT_THAT(result.out, HasSubstr("result: "));
  }
}

TEST(PlayOpponents, PerfectSolvesThePuzzle) {
  const auto result = run_orchard({"play", game_path("sprinklers"), "--seat", "gardener=perfect"});
  EXPECT_THAT(result.out, HasSubstr("gardener scores 100"));
}

TEST(PlayOpponents, AreNamedInTheRecord) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.path("m.match");
  run_orchard({"play", game_path("espalier_3x3"), "--seat", "west=careful"},
              "1\nsave " + file + "\nquit\n");
  EXPECT_THAT(testing::read_file(file), HasSubstr("careful"));
  const auto resumed = run_orchard({"play", game_path("espalier_3x3"), "--resume", file}, "quit\n");
  EXPECT_THAT(resumed.out, HasSubstr("west is played by careful"));
}

TEST(PlayOpponents, WrongOnesAreRefused) {
  const auto result =
      run_orchard({"play", game_path("espalier_3x3"), "--seat", "west=playouts:lots"});
  EXPECT_EQ(result.status, 2);
  EXPECT_THAT(result.err, HasSubstr("west cannot be played by playouts:lots"));
  EXPECT_THAT(result.err, HasSubstr("the seats are: person, random, greedy"));
  const auto chance = run_orchard({"play", game_path("moles"), "--seat", "random=careful"});
  EXPECT_THAT(chance.err, HasSubstr("chance is always random"));
}

// Whatever is changed in a drawing is either read as something else, or refused with its place.
TEST(DrawnBoards, BadDrawingsAreRefusedWithAPlace) {
  const testing::TemporaryFolder folder;
  const std::string good =
      run_orchard({"show", game_path("silo"), "--after", "5", "--seed", "2", "--drawn"}).out;
  const auto read = [&](const std::string& text) {
    return run_orchard(
        {"show", game_path("silo"), "--position", folder.write("p.position", text), "--quiet"});
  };
  ASSERT_EQ(read(good).status, 0) << good;
  const auto changed = [&](const std::string& from, const std::string& to) {
    std::string text = good;
    const std::size_t at = text.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    return text.replace(at, from.size(), to);
  };
  const struct {
    std::string text;
    const char* message;
  } faults[] = {
      {changed("■", "Z"), "`Z` is nothing that can stand at"},
      {changed("│  ■  │", "│  ■■  │"), "is nothing that can stand at"},
      {changed(" 3 │     │", " 3 │"), "this row has 4 squares; the board has 5 there"},
      {changed(" 3 │     │     │     │     │     │\n", ""), "the board has 5 rows, the drawing 4"},
      {changed("(turn ", "(trun "), "no rule makes a fluent like (trun"},
      {"(position (drawn \"\"))", "the board has 5 rows, the drawing 0"},
      {"(position (drawn \"a\") (drawn \"b\"))", "a position has one drawing"},
  };
  for (const auto& [text, message] : faults) {
    const auto refused = read(text);
    EXPECT_EQ(refused.status, 2) << message;
    EXPECT_THAT(refused.err, HasSubstr(message));
    EXPECT_THAT(refused.err, HasSubstr("p.position:"));
  }
  // A crate turned into one of the other carter is another position, and a right one.
  const auto other = read(changed("■", "□"));
  EXPECT_EQ(other.status, 0) << other.err;
  EXPECT_NE(other.out, read(good).out);
}

// Cells may be wider or narrower than they are drawn, as when typed by hand.
TEST(DrawnBoards, WidthsDoNotMatter) {
  const testing::TemporaryFolder folder;
  const std::string file = folder.write("h.position",
                                        "(position \"by hand\" (drawn \"\n"
                                        "   +---+---+---+\n"
                                        " 3 |   |   |   |\n"
                                        " 2 | ♠ |   |   |\n"
                                        " 1 | ♠ |♤| ♤   |\n"
                                        "\") (turn east))");
  const auto shown =
      run_orchard({"show", game_path("espalier_3x3"), "--position", file + ":by hand"});
  EXPECT_EQ(shown.status, 0) << shown.err;
  EXPECT_THAT(shown.out, HasSubstr(" 1 │  ♠  │  ♤  │  ♤  │"));
  EXPECT_THAT(shown.out, Not(HasSubstr("?")));
}

}  // namespace
}  // namespace orchard
