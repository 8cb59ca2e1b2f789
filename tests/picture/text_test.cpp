// Drawings as exact texts.
#include "orchard/picture.hpp"

#include <gtest/gtest.h>

#include "support/files.hpp"

namespace orchard::text_test {
namespace {

Game load(std::string_view name) {
  return Game::load(testing::game_path(name)).value();
}

Position position_of(const Game& game, const std::string& text) {
  std::vector<Term> fluents = Term::parse(text).value().arguments();
  return game.position(fluents).value();
}

std::vector<NumberedMove> moves_of(const Game& game, const Position& position) {
  std::vector<NumberedMove> moves;
  for (const Role& role : game.to_move(position)) {
    for (const Move& move : game.legal(position, role)) {
      moves.push_back({role, move, moves.size() + 1});
    }
  }
  return moves;
}

std::string draw(const Game& game, const Position& position, bool with_moves = false,
                 TextStyle style = {}) {
  PictureFrame frame{position};
  if (with_moves) frame.moves = moves_of(game, position);
  return Picture(game).text(frame, style);
}

TEST(Picture, MarksLegalMovesOnTheirSquares) {
  const Game game = load("espalier_3x3");
  EXPECT_EQ(draw(game, game.initial(), true),
            "      1     2     3\n"
            "   ┌─────┬─────┬─────┐\n"
            " 3 │     │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " 2 │     │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " 1 │ ‹1› │ ‹2› │ ‹3› │\n"
            "   └─────┴─────┴─────┘\n"
            "   E east   W west   blank: bare\n"
            "   also: (turn east)\n");
}

// The line of the numbers, which is as long as the board is wide.
std::size_t numbered_width(const std::string& text) {
  return text.find('\n', text.find_first_not_of('\n'));
}

TEST(Picture, PicturesThatShareTheirWidthsKeepTheirSize) {
  const Game game = load("skep");
  const Position narrow = game.initial();
  JointMove joint;
  for (const Role& role : game.roles()) joint.add(game.legal(narrow, role).front());
  const Position wide = game.next(narrow, joint).value();  // now some places have several moves
  EXPECT_LT(numbered_width(draw(game, narrow, true)), numbered_width(draw(game, wide, true)));
  TextStyle style;
  style.widths = std::make_shared<std::vector<std::size_t>>();
  const std::size_t before = numbered_width(draw(game, wide, true, style));
  EXPECT_EQ(numbered_width(draw(game, narrow, true, style)), before);
  // Where there is no room for that it is as narrow as it has to be.
  style.width = static_cast<int>(before) - 2;
  EXPECT_LT(numbered_width(draw(game, narrow, true, style)), before);
}

TEST(Picture, DrawsInPlainAscii) {
  const Game game = load("espalier_3x3");
  TextStyle style;
  style.unicode = false;
  EXPECT_EQ(draw(game, game.initial(), true, style),
            "      1     2     3\n"
            "   +-----+-----+-----+\n"
            " 3 |     |     |     |\n"
            "   +-----+-----+-----+\n"
            " 2 |     |     |     |\n"
            "   +-----+-----+-----+\n"
            " 1 | <1> | <2> | <3> |\n"
            "   +-----+-----+-----+\n"
            "   E east   W west   blank: bare\n"
            "   also: (turn east)\n");
}

// The two faults that boards must show at a glance: two things in a square, and a square of which
// nothing is true.
TEST(Picture, ShowsSquaresWithTwoContentsAndWithNone) {
  const Game game = load("espalier_3x3");
  const Position faulty =
      position_of(game,
                  "(p (square 1 1 east) (square 1 1 west) (square 1 2 bare) (square 1 2 west)"
                  " (square 2 2 bare))");
  EXPECT_EQ(draw(game, faulty),
            "      1     2     3\n"
            "   ┌─────┬─────┬─────┐\n"
            " 3 │  ?  │  ?  │  ?  │\n"
            "   ├─────┼─────┼─────┤\n"
            " 2 │  ?  │     │  ?  │\n"
            "   ├─────┼─────┼─────┤\n"
            " 1 │ EW  │ BW  │  ?  │\n"
            "   └─────┴─────┴─────┘\n"
            "   E east   W west   B bare   ? nothing   blank: bare\n");
}

// Names of several words are told apart by a letter of each; the list of them keeps to the width.
TEST(Picture, LettersOfNamesOfSeveralWords) {
  const Game game = load("skep");
  TextStyle style;
  style.width = 60;
  const std::string text = draw(game, game.initial(), false, style);
  EXPECT_NE(text.find(" 8 │ Hs  │ Hn  │ Hd  │ Hq  │ Hg  │ Hd  │ Hn  │ Hs  │\n"), std::string::npos)
      << text;
  EXPECT_NE(text.find("Ls lime_scout"), std::string::npos);
  std::istringstream lines(text.substr(text.find("└")));
  std::string line;
  std::getline(lines, line);  // the lower border
  int of_list = 0;
  for (; std::getline(lines, line); ++of_list) EXPECT_LE(line.size(), 60u) << line;
  EXPECT_GE(of_list, 5);
}

// A move that names no square is marked where playing it changes the board.
TEST(Picture, MarksMovesByWhatTheyChange) {
  const Game game = load("silo");
  const std::string text = draw(game, game.initial(), true);
  EXPECT_NE(text.find(" 1 │ ‹1› │ ‹2› │ ‹3› │ ‹4› │ ‹5› │\n"), std::string::npos) << text;
  EXPECT_LT(text.find(" 5 │"), text.find(" 1 │"));  // heights run upwards, as (above 5 4) says
}

TEST(Picture, ToldByColourWhoseIsWhat) {
  const Game game = load("espalier_3x3");
  TextStyle style;
  style.colour = true;
  const std::string text =
      draw(game, position_of(game, "(p (square 1 1 east) (square 1 2 west))"), false, style);
  // The escape right before a letter that another escape follows.
  const auto tone_of = [&](const std::string& letter) {
    const std::size_t at = text.find("m" + letter + "\x1b");
    return at == std::string::npos
               ? ""
               : text.substr(text.rfind('\x1b', at), at - text.rfind('\x1b', at));
  };
  EXPECT_NE(tone_of("E"), "");
  EXPECT_NE(tone_of("W"), "");
  EXPECT_NE(tone_of("E"), tone_of("W"));
}

// Sizes come from what is declared, orders from the relations of the rules, in any spelling.
TEST(Picture, OrdersNamesAsTheRulesDo) {
  const Game game =
      Game::from_text(
          "(role r) (line a b) (line b c) (file x y) (file y z)"
          "(<= (row ?a) (line ?a ?b)) (row c) (<= (col ?a) (file ?a ?b)) (col z)"
          "(<= (next (on ?a ?b plum)) (true (on ?a ?b plum)) (line ?a ?c) (file ?b ?d))"
          "(<= (init (on ?a ?b none)) (row ?a) (col ?b) (distinct ?a b)) (init (on b x plum))"
          "(init (on b y none)) (init (on b z none))")
          .value();
  EXPECT_EQ(draw(game, game.initial()),
            "      x     y     z\n"
            "   ┌─────┬─────┬─────┐\n"
            " a │     │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " b │  P  │     │     │\n"
            "   ├─────┼─────┼─────┤\n"
            " c │     │     │     │\n"
            "   └─────┴─────┴─────┘\n"
            "   P plum   blank: none\n");
}

TEST(Picture, DrawsATrackAsOneRow) {
  const Game game = Game::from_text(
                        "(role r) (init (pole 1 crow)) (init (pole 2 bare)) (init (pole 3 bare)) "
                        "(init (pole 4 cat))")
                        .value();
  EXPECT_EQ(draw(game, game.initial()),
            "     1     2     3     4\n"
            "  ┌─────┬─────┬─────┬─────┐\n"
            "  │ Cr  │     │     │ Ca  │\n"
            "  └─────┴─────┴─────┴─────┘\n"
            "   Cr crow   Ca cat   blank: bare\n");
}

// A ring of squares that nothing enters is a helper of the rules, not a part of the board.
TEST(Picture, HidesTheHelperSquaresOfABorder) {
  const std::string rules = R"(
    (role r)
    (#for ?x 0 4 (#for ?y 0 4 (place ?x ?y)))
    (#for ?x 1 3 (#for ?y 1 3 (inner ?x ?y)))
    (<= (init (cell ?x ?y edge)) (place ?x ?y) (not (inner ?x ?y)))
    (<= (init (cell ?x ?y bare)) (inner ?x ?y))
    (<= (legal r (put ?x ?y)) (true (cell ?x ?y bare)))
    (<= (next (cell ?x ?y plant)) (does r (put ?x ?y)))
    (<= (next (cell ?x ?y ?c)) (true (cell ?x ?y ?c)) (not (does r (put ?x ?y))))
    (<= some_bare (true (cell ?x ?y bare)))
    (<= terminal (not some_bare)) (goal r 100))";
  const Game game = Game::from_text(rules).value();
  EXPECT_EQ(draw(game, game.initial(), true),
            "      1     2     3\n"
            "   ┌─────┬─────┬─────┐\n"
            " 1 │ ‹1› │ ‹2› │ ‹3› │\n"
            "   ├─────┼─────┼─────┤\n"
            " 2 │ ‹4› │ ‹5› │ ‹6› │\n"
            "   ├─────┼─────┼─────┤\n"
            " 3 │ ‹7› │ ‹8› │ ‹9› │\n"
            "   └─────┴─────┴─────┘\n"
            "   P plant   blank: bare\n");
  // What a faulty position puts there is told all the same.
  std::vector<Term> fluents = game.initial().fluents();
  fluents.push_back(Term::parse("(cell 0 2 plant)").value());
  EXPECT_THAT(draw(game, game.position(fluents).value()),
              ::testing::HasSubstr("also: (cell 0 2 plant)"));
}

TEST(Picture, ListsWhatIsNoBoard) {
  const Game game = Game::from_text("(role r) (init (basket ada 3)) (init dry)").value();
  EXPECT_FALSE(Picture(game).has_board());
  EXPECT_EQ(draw(game, game.initial()), "   (basket ada 3)  dry\n");
  EXPECT_EQ(draw(game, game.position({}).value()), "   nothing holds\n");
}

// A pair of numbers that changes is a score, not a square.
TEST(Picture, TakesNoScoreForABoard) {
  const Game game =
      Game::from_text(
          "(role r) (s 0 1) (s 1 2) (s 2 3) (init (score 0 0)) (legal r up) (legal r across)"
          "(<= (next (score ?y ?b)) (does r up) (true (score ?x ?b)) (s ?x ?y))"
          "(<= (next (score ?a ?y)) (does r across) (true (score ?a ?x)) (s ?x ?y))")
          .value();
  EXPECT_FALSE(Picture(game).has_board());
}

// Counts of pairs of places are no board, whose squares are there from the start.
TEST(Picture, TakesNoCountsOfPairsForABoard) {
  EXPECT_FALSE(Picture(load("scarecrow")).has_board());
  const std::string rules =
      "(role r) (n 1) (n 2) (n 3) (s 1 2) (s 2 3) (s 3 1) (<= (near ?x ?y) (s ?x ?y))"
      "(<= (legal r (go ?x)) (n ?x)) (init (at 1)) (<= (next (at ?x)) (does r (go ?x)))"
      "(<= (next (been ?x ?y ?n)) (true (at ?x)) (does r (go ?y)) (true (been ?x ?y ?m)) (s ?m ?n))"
      "(<= (next (been ?x ?y 1)) (true (at ?x)) (does r (go ?y)))"
      "(<= (next (been ?x ?y ?n)) (true (been ?x ?y ?n)))";
  EXPECT_FALSE(Picture(Game::from_text(rules).value()).has_board());
  const std::string from_the_start = "(<= (init (been ?x ?y 1)) (n ?x) (n ?y))";
  EXPECT_TRUE(Picture(Game::from_text(rules + from_the_start).value()).has_board());
}

TEST(Picture, DrawsAnUnfinishedDescription) {
  const Game game =
      Game::from_text("(role r) (n 1) (n 2) (<= (init (bed ?x ?y soil)) (n ?x) (n ?y))").value();
  EXPECT_EQ(draw(game, game.initial()),
            "      1     2\n"
            "   ┌─────┬─────┐\n"
            " 1 │     │     │\n"
            "   ├─────┼─────┤\n"
            " 2 │     │     │\n"
            "   └─────┴─────┘\n"
            "   blank: soil\n");
}

// As roomy as the width allows: numbered moves, then narrow cells, then dots for moves, at last
// cells of one character with labels upright. Nothing on the board is left out.
TEST(Picture, BoardsKeepWithinTheWidth) {
  LoadOptions sizes;
  sizes.sizes = {{"bins", 12}, {"heights", 2}};
  const Game game = Game::load(testing::game_path("silo"), sizes).value();
  Position position = game.initial();
  for (std::size_t ply = 0; ply < 4; ++ply) {
    JointMove joint;
    for (const Role& role : game.roles()) {
      const std::vector<Move> legal = game.legal(position, role);
      joint.add(legal[ply * 3 % legal.size()]);
    }
    position = game.next(position, joint).value();
  }
  const auto drawn = [&](int width) {
    TextStyle style;
    style.width = width;
    return draw(game, position, true, style);
  };
  const auto count = [](const std::string& text, std::string_view what) {
    std::size_t result = 0;
    for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + 1)) {
      ++result;
    }
    return result;
  };
  const auto board_width = [&](const std::string& text) {
    const std::size_t begin = text.find("┌");
    const std::string line = text.substr(begin, text.find('\n', begin) - begin);
    return 3 + line.size() / std::string_view("┌").size();
  };
  const std::string roomy = drawn(100);
  EXPECT_EQ(board_width(roomy), 76u);
  EXPECT_EQ(drawn(76), roomy);
  const std::size_t landings = count(roomy, "‹");
  EXPECT_EQ(landings, 8u);  // of four bins the crate topples
  const std::string dots = drawn(75);
  EXPECT_EQ(board_width(dots), 52u);
  EXPECT_EQ(count(dots, "‹"), 0u);
  EXPECT_EQ(count(dots, "·"), landings + 1);  // and once where it is told
  EXPECT_NE(dots.find("· a legal move, listed below"), std::string::npos);
  const std::string narrow = drawn(51);
  EXPECT_EQ(board_width(narrow), 28u);
  EXPECT_NE(narrow.find("                      1 1 1\n"
                        "    1 2 3 4 5 6 7 8 9 0 1 2\n"),
            std::string::npos)
      << narrow;
  EXPECT_EQ(drawn(10).substr(0, 200), narrow.substr(0, 200));
  for (const std::string& other : {dots, narrow}) {
    for (const char* piece : {"■", "□"}) EXPECT_EQ(count(other, piece), count(roomy, piece));
  }
}

TEST(Picture, KeepsWithinTheWidthWhereItLists) {
  std::string rules = "(role r)";
  for (int i = 0; i < 60; ++i)
    rules +=
        "(init (note " + std::string(1, static_cast<char>('a' + i % 26)) + std::to_string(i) + "))";
  const Game game = Game::from_text(rules).value();
  TextStyle style;
  style.width = 50;
  const std::string text = draw(game, game.initial(), false, style);
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = text.find('\n', at);
    EXPECT_LE(end - at, 50u);
    at = end + 1;
  }
}

}  // namespace
}  // namespace orchard::text_test
