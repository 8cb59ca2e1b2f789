// Boards that are inferred from rules of different styles.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/line.hpp"
#include "orchard/picture.hpp"
#include "orchard/playouts.hpp"
#include "picture/face/frames.hpp"
#include "picture/inferred/layout.hpp"
#include "support/files.hpp"

namespace orchard::layout_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

Game game_of(const std::string& text) {
  return Game::from_text(text).value();
}

std::string draw(const Game& game, const Position& position) {
  return Picture(game).text({position});
}

// The board after a line of play, with the last move marked.
std::string draw_after(const Game& game, const std::string& plies) {
  const Line line = play_line(game, game.initial(), plies).value();
  return Picture(game).text(picture::frame_of(game, line.last(), picture::last_step(line)));
}

const std::string lines_of_three =
    "(line 1 2 3) (line 4 5 6) (line 7 8 9) (line 1 4 7) (line 2 5 8) (line 3 6 9) (line 1 5 9)"
    "(line 3 5 7)";
std::string numbered_beds(const std::string& lines) {
  return lines +
         "(role ida) (#for ?b 1 9 (bed ?b)) (<= (init (free ?b)) (bed ?b))"
         "(<= (legal ida (plant ?b)) (true (free ?b)))"
         "(<= (next (owned ?b ?w)) (does ?w (plant ?b)))"
         "(<= (next (owned ?b ?w)) (true (owned ?b ?w)))"
         "(<= (next (free ?b)) (true (free ?b)) (not (does ida (plant ?b))))"
         "(<= (row ?w) (line ?a ?b ?c) (true (owned ?a ?w)) (true (owned ?b ?w))"
         "    (true (owned ?c ?w)))"
         "(<= terminal (row ?w)) (<= (goal ?w 100) (row ?w))";
}

TEST(Layout, NumberedPlacesStandInRowsAsTheLinesSay) {
  EXPECT_EQ(draw_after(game_of(numbered_beds(lines_of_three)), "(plant 2) (plant 7)"),
            "  ┌───────┬───────┬───────┐\n"
            "  │   1   │  2 I  │   3   │\n"
            "  ├───────┼───────┼───────┤\n"
            "  │   4   │   5   │   6   │\n"
            "  ├───────┼───────┼───────┤\n"
            "  │ 7 [I] │   8   │   9   │\n"
            "  └───────┴───────┴───────┘\n"
            "   I ida   blank: free\n");
}

// Rows and columns that count by nesting; a row that no start names is there all the same.
TEST(Layout, NestedNumbersAreRowsAndColumns) {
  const Game game = game_of(
      "(role ida) (init (bed (s z) z weed)) (init (bed (s z) (s z) bare))"
      "(init (bed (s z) (s (s z)) bare)) (init (bed (s (s (s z))) z bare))"
      "(init (bed (s (s (s z))) (s z) bare)) (init (bed (s (s (s z))) (s (s z)) weed))"
      "(<= (legal ida (pull ?row ?column)) (true (bed ?row ?column weed)))"
      "(<= (next (bed ?row ?column bare)) (does ida (pull ?row ?column)))"
      "(<= (next (bed ?row ?column ?what)) (true (bed ?row ?column ?what))"
      "    (not (does ida (pull ?row ?column))))"
      "(<= weedy (true (bed ?row ?column weed))) (<= terminal (not weedy)) (goal ida 100)");
  EXPECT_EQ(draw(game, game.initial()),
            "      0     1     2\n"
            "   ┌─────┬─────┬─────┐\n"
            " 1 │  W  │  B  │  B  │\n"
            "   ├─────┼─────┼─────┤\n"
            " 2 │     │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " 3 │  B  │  B  │  W  │\n"
            "   └─────┴─────┴─────┘\n"
            "   W weed   B bare\n");
  // Moves name their squares, also the one whose numbers are nested only once.
  const PictureLayout layout(*GameAccess::core(game));
  std::vector<Square> named;
  for (const Move& move : game.legal(game.initial(), game.roles().front())) {
    const auto square =
        layout.named_square(*GameAccess::core(game), GameAccess::id(move), game.roles().front());
    ASSERT_TRUE(square) << move.to_string();
    named.push_back(*square);
  }
  EXPECT_THAT(named, ::testing::UnorderedElementsAre(Square{0, 0, 0}, Square{0, 2, 2}));
}

// One line that goes round an edge, and they are no rows of three.
TEST(Layout, PlacesWhoseLinesFitNoRowsStayInOne) {
  const std::string drawn =
      draw_after(game_of(numbered_beds(lines_of_three + "(line 3 4 5)")), "(plant 2) (plant 7)");
  EXPECT_THAT(drawn, HasSubstr("1     2     3     4     5     6     7     8     9"));
}

const std::string falling =
    "(role ida) (pot a) (pot b) (pot c) (next_pot a b) (next_pot b c) (succ 0 1) (succ 1 2)"
    "(succ 2 3) (<= (init (height ?p 0)) (pot ?p))"
    "(<= (legal ida (drop ?p)) (true (height ?p ?h)) (succ ?h ?n))"
    "(<= (next (seed ?p ?n ?w)) (does ?w (drop ?p)) (true (height ?p ?h)) (succ ?h ?n))"
    "(<= (next (seed ?p ?n ?w)) (true (seed ?p ?n ?w)))"
    "(<= (next (height ?p ?n)) (does ?w (drop ?p)) (true (height ?p ?h)) (succ ?h ?n))"
    "(<= (next (height ?p ?h)) (true (height ?p ?h)) (not (does ida (drop ?p))))"
    "(<= (row ?w) (true (seed ?a ?h ?w)) (next_pot ?a ?b) (true (seed ?b ?h ?w)) (next_pot ?b ?c)"
    "    (true (seed ?c ?h ?w)))"
    "(<= terminal (row ?w)) (<= (goal ?w 100) (row ?w))";

// Every fluent of a position stands on a board, is a helper of a border, or is listed.
TEST(Layout, LeavesNothingOut) {
  std::vector<std::string> paths = testing::demo_games();
  for (const std::string& path : testing::corpus_games()) paths.push_back(path);
  for (const std::string& path : paths) {
    SCOPED_TRACE(path);
    const Game game = Game::load(path).value();
    const GameCore& core = *GameAccess::core(game);
    const PictureLayout layout(core);
    WalkOptions options;
    options.plies = 8;
    (void)random_walk(game, options, [&](const WalkStep& step) {
      const std::string drawn = draw(game, step.position);
      for (const TermId fluent : GameAccess::state(step.position).fluents()) {
        const std::string text = core.terms().text(fluent);
        const bool listed = drawn.find(text) != std::string::npos;
        EXPECT_TRUE(layout.place(core, fluent) || layout.is_border(core, fluent) || listed) << text;
      }
      return true;
    });
  }
}

// Letters are columns, numbers run upwards, a height is no square, and a move that names only a
// column is marked where something came to stand.
TEST(Layout, LetteredColumnsStandUpright) {
  EXPECT_EQ(draw_after(game_of(falling), "(drop b) (drop b) (drop c)"),
            "      a     b     c\n"
            "   ┌─────┬─────┬─────┐\n"
            " 3 │     │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " 2 │     │  I  │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " 1 │     │  I  │ [I] │\n"
            "   └─────┴─────┴─────┘\n"
            "   I ida\n"
            "   also: (height a 0)  (height b 2)  (height c 1)\n");
}

TEST(Layout, OnLetteredBoardsPlacesAreTypedInEitherOrder) {
  const Game game = game_of(
      "(role ida) (file a b) (file b c) (rank 1 2) (rank 2 3) (<= (col ?x) (file ?x ?y)) (col c)"
      "(<= (row ?x) (rank ?x ?y)) (row 3) (<= (init (cell ?c ?r bare)) (col ?c) (row ?r))"
      "(<= (legal ida (dig ?c ?r)) (true (cell ?c ?r bare))) (goal ida 100)");
  PictureFrame frame{game.initial()};
  frame.moves = {{game.roles()[0], game.legal(game.initial(), game.roles()[0])[1], 1}};
  EXPECT_THAT(Picture(game).places(frame).at(1), ::testing::UnorderedElementsAre("2 a", "a 2"));
}

// A board for everybody, where everybody's squares are there at the same time.
const std::string plots =
    "(role ann) (role bob) (n 1) (n 2)"
    "(<= (init (plot ?w ?r ?c wild)) (role ?w) (n ?r) (n ?c))"
    "(<= (legal ?w (dig ?r ?c)) (true (plot ?w ?r ?c wild)))"
    "(<= (next (plot ?w ?r ?c dug)) (does ?w (dig ?r ?c)))"
    "(<= (next (plot ?w ?r ?c ?x)) (true (plot ?w ?r ?c ?x)) (not (does ?w (dig ?r ?c))))"
    "(<= terminal (true (plot ann 1 1 dug)) (true (plot ann 2 2 dug))) (goal ann 100) (goal bob 0)";

TEST(Layout, EverybodyHasABoard) {
  EXPECT_EQ(draw_after(game_of(plots), "(joint (ann (dig 1 2)) (bob (dig 2 1)))"),
            "   ann\n"
            "      1     2\n"
            "   ┌─────┬─────┐\n"
            " 1 │     │ [D] │\n"
            "   ├─────┼─────┤\n"
            " 2 │     │     │\n"
            "   └─────┴─────┘\n"
            "   D dug   blank: wild\n"
            "\n"
            "   bob\n"
            "      1     2\n"
            "   ┌─────┬─────┐\n"
            " 1 │     │     │\n"
            "   ├─────┼─────┤\n"
            " 2 │ [D] │     │\n"
            "   └─────┴─────┘\n"
            "   D dug   blank: wild\n");
}

// Pieces of two owners on squares of one board do not make it two boards.
TEST(Layout, OwnersOfPiecesShareABoard) {
  const Game game = game_of(
      "(role ann) (role bob) (n 1) (n 2) (n 3) (<= (init (plot ann 1 ?c stone)) (n ?c))"
      "(<= (init (plot bob 3 ?c stone)) (n ?c)) (<= (next ?f) (true ?f))"
      "(<= (legal ?w wait) (role ?w))");
  EXPECT_THAT(draw(game, game.initial()), ::testing::AllOf(HasSubstr("AS ann stone   BS bob stone"),
                                                           Not(HasSubstr("   ann\n"))));
}

// Coordinates may stand within terms of their own.
TEST(Layout, FindsPlacesWithinTerms) {
  EXPECT_EQ(
      draw_after(game_of("(role fay) (n 1) (n 2) (n 3)"
                         "(init (stands (dog fay first) (at 1 1)))"
                         "(init (stands (dog fay second) (at 1 3)))"
                         "(<= (legal fay (lead ?dog (to 3 ?c))) (n ?c)"
                         "    (true (stands ?dog (at 1 ?c))))"
                         "(<= (next (stands ?dog (at ?r ?c))) (does fay (lead ?dog (to ?r ?c))))"
                         "(<= (next (stands ?dog ?p)) (true (stands ?dog ?p)) (not (led ?dog)))"
                         "(<= (led ?dog) (does fay (lead ?dog ?p)))"
                         "(<= terminal (true (stands (dog fay first) (at 3 1)))"
                         "    (true (stands (dog fay second) (at 3 3))))"),
                 "(lead (dog fay first) (to 3 1))"),
      "       1       2       3\n"
      "   ┌───────┬───────┬───────┐\n"
      " 1 │       │       │  FaS  │\n"
      "   ├───────┼───────┼───────┤\n"
      " 2 │       │       │       │\n"
      "   ├───────┼───────┼───────┤\n"
      " 3 │[FaFi] │       │       │\n"
      "   └───────┴───────┴───────┘\n"
      "   FaFi fay first   FaS fay second\n");
}

// Facts that no rule asks for may order the names, and so does a number at the end of them.
TEST(Layout, OrdersNamesByFactsForTheDrawingAlone) {
  const std::string beds =
      "(role r) (init (bed low left bare)) (init (bed low right bare)) (init (bed high left rose))"
      "(init (bed high right bare)) (init (bed mid left rose)) (init (bed mid right bare))"
      "(init (bed low mid bare))";
  EXPECT_FALSE(Picture(game_of(beds)).has_board());
  const Game ordered =
      game_of(beds + "(above high mid) (above mid low) (beside left mid) (beside mid right)");
  EXPECT_EQ(draw(ordered, ordered.initial()).substr(0, 25), "       left   mid  right\n");
  const Game numbered =
      game_of("(role r) (init (bed b2 rose)) (init (bed b10 bare)) (init (bed b1 bare))");
  EXPECT_THAT(draw(numbered, numbered.initial()), HasSubstr("b1    b2    b10"));
}

// Names that begin alike get letters that differ.
TEST(Layout, SignsDiffer) {
  const Game game =
      game_of("(role r) (init (bed 1 shepherd)) (init (bed 2 sheep)) (init (bed 3 shears))");
  EXPECT_THAT(draw(game, game.initial()), HasSubstr("Sp shepherd   Se sheep   Sa shears"));
}

}  // namespace
}  // namespace orchard::layout_test
