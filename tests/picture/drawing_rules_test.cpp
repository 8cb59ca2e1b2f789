// Drawing rules: what they can say, and what is said of mistakes in them.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <set>

#include "orchard/explain.hpp"
#include "orchard/line.hpp"
#include "orchard/picture.hpp"
#include "orchard/playouts.hpp"
#include "picture/ruled/drawing_rules.hpp"
#include "picture/ruled/scene_of_facts.hpp"
#include "picture/written/text.hpp"
#include "support/files.hpp"
#include "support/play.hpp"

namespace orchard::drawing_rules_test {
namespace {

using testing::walk;

using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

constexpr const char* two_beds = R"(
  (#let beds 2)
  (role gardener) (role rain)
  (#for ?bed 1 beds (bed ?bed))
  (init (bed_of 1 rose)) (init (bed_of 2 bare)) (init (water 3))
  (<= (legal gardener (plant ?bed)) (true (bed_of ?bed bare)))
  (<= (legal gardener wait) (role gardener))
  (legal rain fall)
  (<= (next (bed_of ?bed rose)) (does gardener (plant ?bed)))
  (<= (next (bed_of ?bed ?what)) (true (bed_of ?bed ?what)) (not (does gardener (plant ?bed))))
  (<= terminal (true (water 0))) (goal gardener 0) (goal rain 0))";

Game game_of(const std::string& rules) {
  return Game::from_text(rules).value();
}

std::string drawn(const std::string& rules, TextStyle style = {}) {
  const Game game = game_of(two_beds);
  const auto picture = Picture::from_text(game, rules, "beds.draw");
  return picture ? picture->text({game.initial()}, style) : picture.diagnostics().render();
}

TEST(DrawingRules, PutPiecesOnSquares) {
  EXPECT_EQ(drawn("(<= (draw (square ?bed 1)) (bed ?bed))\n"
                  "(<= (draw (piece (at ?bed 1) blossom berry)) (true (bed_of ?bed rose)))"),
            "   ┌─────┐\n"
            " 1 │  ✿  │\n"
            "   ├─────┤\n"
            " 2 │     │\n"
            "   └─────┘\n");
}

TEST(DrawingRules, RunRowsUpwardsAndTurnTheView) {
  const std::string rules =
      "(<= (draw (square ?bed 1)) (bed ?bed)) (draw (rows upwards))"
      "(<= (draw (piece (at ?bed 1) disc gardener)) (true (bed_of ?bed rose)))";
  EXPECT_THAT(drawn(rules), HasSubstr(" 2 │     │\n   ├─────┤\n 1 │  ●  │\n"));
  TextStyle turned;
  turned.turned = true;
  EXPECT_THAT(drawn(rules, turned), HasSubstr(" 1 │  ●  │\n   ├─────┤\n 2 │     │\n"));
}

TEST(DrawingRules, ShapesAndTonesDifferInText) {
  const std::string text = drawn(
      "(draw (square 1 1)) (draw (square 1 2)) (draw (square 1 3)) (draw (square 1 4))"
      "(draw (piece (at 1 1) (letter q) gardener)) (draw (piece (at 1 2) (letter q) rain))"
      "(draw (pieces (at 1 3) block sun 4)) (draw (piece (at 1 4) (pointing left triangle) ink))"
      "(draw (hidden (at 1 4))) (draw (mark (at 1 1))) (draw (label (at 1 2) b))");
  EXPECT_THAT(text, HasSubstr("│ [Q] │ b q │ ■×4 │ ▒▲← │"));
}

TEST(DrawingRules, CombsRingsAndFreePlaces) {
  EXPECT_EQ(
      drawn("(draw (square 1 1)) (draw (square 1 2)) (draw (square 2 1)) (draw (shift_row 2))"),
      "      1     2\n"
      "   ┌─────┬─────┐\n"
      " 1 │     │     │\n"
      "   └──┬──┴──┬──┘\n"
      " 2    │     │\n"
      "      └─────┘\n");
  EXPECT_EQ(drawn("(#for ?at 0 7 (draw (on_ring ?at ?at 8)) (draw (label ?at ?at))"
                  "  (draw (edge ?at (#mod (#+ ?at 1) 8))))"
                  "(draw (edge 0 3)) (draw (arrow 1 5 rain))"),
            "  ┌─────┬─────┬─────┐\n"
            "  │  0  │  1  │  2  │\n"
            "  ├─────┼─────┼─────┤\n"
            "  │  7  │     │  3  │\n"
            "  ├─────┼─────┼─────┤\n"
            "  │  6  │  5  │  4  │\n"
            "  └─────┴─────┴─────┘\n"
            "   joined: 0–3\n"
            "   lines: 1 → 5\n");
  EXPECT_EQ(drawn("(draw (spot gate 0 0)) (draw (spot pond 5 2)) (draw (edge gate pond))"),
            "  ┌─────┐\n"
            "  │     │\n"
            "  └─────┼─────┐\n"
            "        │     │\n"
            "        └─────┘\n"
            "   joined: gate–pond\n");
}

TEST(DrawingRules, SidesOfThePicture) {
  EXPECT_EQ(drawn("(<= (draw (gauge water ?n 6 rain)) (true (water ?n)))"
                  "(draw (counter (words days of rain) 2 rain)) (draw (tray shed quiet))"
                  "(draw (in_tray hand 2 (pair 0 3) gardener)) (draw (in_tray hand 1 disc rain))"
                  "(draw (caption (words it is spring)))"),
            "   shed  –\n"
            "   hand  ○ [0|3]\n"
            "   water  ███░░░  3 of 6\n"
            "   days of rain 2\n"
            "   It is spring\n");
}

TEST(DrawingRules, TellTheViewerApart) {
  const Game game = game_of(two_beds);
  const Picture picture =
      Picture::from_text(game,
                         "(draw (square 1 1)) (<= (draw (hidden (at 1 1))) (viewer rain))"
                         "(<= (draw (caption ?p)) (perceived rain ?p))"
                         "(<= (draw (caption (words ?who did ?what))) (last_move ?who ?what))",
                         "v.draw")
          .value();
  PictureFrame frame{game.initial()};
  EXPECT_THAT(picture.text(frame), Not(HasSubstr("▒")));
  frame.viewer = game.role("rain");
  frame.perceived.push_back(Term::parse("(thunder far)").value());
  frame.last_moves.emplace_back(*game.role("gardener"), Term::constant("wait"));
  EXPECT_THAT(picture.text(frame), HasSubstr("▒"));
  EXPECT_THAT(picture.text(frame), HasSubstr("Thunder far"));
  EXPECT_THAT(picture.text(frame), HasSubstr("Gardener did wait"));
}

// Drawing rules may cover what the viewer is not sure of; inferred boards do.
TEST(DrawingRules, ShowWhatTheViewerIsNotSureOf) {
  const Game game = game_of(two_beds);
  ASSERT_FALSE(game.initial().fluents().empty());
  const Term fluent = game.initial().fluents().front();
  const Picture ruled =
      Picture::from_text(game, "(draw (square 1 1)) (<= (draw (hidden (at 1 1))) (unsure ?_f))",
                         "v.draw")
          .value();
  PictureFrame frame{game.position({}).value()};
  EXPECT_THAT(ruled.text(frame), Not(HasSubstr("▒")));
  frame.unsure = {fluent};
  EXPECT_THAT(ruled.text(frame), Not(HasSubstr("▒")));  // nobody looks, so all is shown
  frame.viewer = game.role("rain");
  EXPECT_THAT(ruled.text(frame), HasSubstr("▒"));
}

// Pieces end to end, in the order of any term; the way turns at the edge.
TEST(DrawingRules, LayChains) {
  EXPECT_EQ(drawn("(draw (chain vine 2 (pair b c) leaf)) (draw (chain vine 1 (pair a b) leaf))"
                  "(draw (piece (end vine last) dot ink))"),
            "        ┌─────┬─────┬─────┬─────┬─────┐\n"
            "        │  a  │  b  │  b  │  c  │  •  │\n"
            "        └─────┴─────┴─────┴─────┴─────┘\n");
  std::string many;
  for (int i = 1; i <= 13; ++i) many += "(draw (chain vine " + std::to_string(i) + " dot leaf))";
  const std::string text = drawn(many);
  // Eleven beside the free cell, one at the corner, and on below it.
  EXPECT_THAT(text,
              HasSubstr("│  •  │  •  │  •  │  •  │  •  │  •  │  •  │  •  │  •  │  •  │  •  │"));
  EXPECT_EQ(std::ranges::count(text, '\n'), 7);
}

TEST(DrawingRules, TellWhatStandsOnNoPlace) {
  EXPECT_THAT(
      drawn("(draw (square 1 1)) (draw (piece (at 1 7) dot leaf)) (draw (edge here there))"),
      HasSubstr("Drawn at places that are not on the board: (piece (at 1 7) dot leaf) "
                "(edge here there)"));
}

// Choices depend on everything that makes a move legal, so they do not count.
TEST(DrawingRules, HintAtFluentsThatAreNotDrawn) {
  const Game game = game_of(two_beds);
  const auto hints_of = [&](const std::string& rules) {
    return Picture::from_text(game, rules, "beds.draw").value().hints().render();
  };
  const std::string squares = "(<= (draw (square ?bed 1)) (bed ?bed))";
  EXPECT_THAT(hints_of(squares + "(<= (draw (choice ?r ?m (at 1 1))) (legal ?r ?m))"),
              ::testing::AllOf(HasSubstr("the drawing shows nothing of `bed_of`"),
                               HasSubstr("the drawing shows nothing of `water`")));
  EXPECT_THAT(
      hints_of(squares + "(<= (draw (caption ?w)) (wet ?w)) (<= (wet ?w) (true (water ?w)))"
                         "(<= (draw (hidden (at ?b 1))) (bed ?b) (not (true (bed_of ?b rose))))"),
      IsEmpty());
}

TEST(DrawingRules, SayWhatIsWrongAndWhere) {
  const struct {
    const char* rules;
    const char* message;
  } faults[] = {
      {"(draw (pice (at 1 1) disc ink))", "beds.draw:1:8: error: there is no drawing fact `pice`"},
      {"(draw (pice (at 1 1) disc ink))", "did you mean `piece`?"},
      {"(draw (piece (at 1 1) disc))", "write (draw (piece PLACE SHAPE TONE))"},
      {"(draw (piece (at 1 1) disk ink))", "did you mean `disc`?"},
      {"(draw (piece (at 1 1) (pointing up disk) ink))", "there is no shape `disk`"},
      {"(draw (piece (at 1 1) disc gardner))", "did you mean `gardener`?"},
      {"(draw (rows downwards))", "`rows` takes `upwards` only"},
      {"(<= (draw ?fact) (true ?fact))", "it is not clear which drawing fact this is"},
      {"(<= (legal rain dance) (bed 1))", "a drawing cannot change `legal` of the game"},
      {"(bed 3) (draw (square 1 1))", "a drawing cannot change `bed` of the game"},
      {"(helper 1)", "these rules draw nothing"},
      {"(<= (draw (square ?x 1)) (not (bed ?x)))", "[unsafe-variable]"},
      {"(draw (square 1 1)", "unclosed-parenthesis"},
  };
  for (const auto& [rules, message] : faults) {
    EXPECT_THAT(drawn(rules), HasSubstr(message)) << rules;
  }
  const Game game = game_of(two_beds);
  const auto slip =
      Picture::from_text(game, "(<= (draw (square ?bed 1)) (bedd ?bed))", "beds.draw");
  EXPECT_THAT(slip->findings().render(), HasSubstr("undefined-relation"));
  EXPECT_THAT(Picture::load(game, "/nowhere.draw").diagnostics().render(),
              HasSubstr("there is no such file"));
}

TEST(DrawingRules, UseTheSizesOfTheGame) {
  EXPECT_THAT(drawn("(#for ?bed 1 beds (draw (square ?bed 1)))"), HasSubstr(" 2 │     │"));
}

// Everything below: the drawing rules of the demo games, at positions of random play.
struct Drawable {
  std::string name;
  Game game;
  Picture picture;
};
std::vector<Drawable> demo() {
  std::vector<Drawable> result;
  for (const std::string& path : testing::demo_games()) {
    const Game game = Game::load(path).value();
    const std::string rules = path.substr(0, path.size() - 4) + ".draw";
    result.push_back({path, game, Picture::load(game, rules).value()});
  }
  return result;
}

TEST(DemoDrawings, HaveNoFindings) {
  for (const Drawable& of : demo()) {
    EXPECT_THAT(of.picture.findings().render(), IsEmpty()) << of.name;
    EXPECT_TRUE(of.picture.has_drawing_rules());
  }
}

TEST(DemoDrawings, DrawnBoardsReadBackAndAreDrawnAlike) {
  for (const Drawable& of : demo()) {
    SCOPED_TRACE(of.name);
    std::size_t with_board = 0;
    std::size_t all = 0;
    walk(of.game, 11, 30, [&](const WalkStep& step) {
      if (step.ply % 4 != 0) return;
      ++all;
      const std::string form = of.picture.drawn(step.position);
      const testing::TemporaryFolder folder;
      const auto read =
          read_position(of.game, folder.write("p.position", form), "",
                        [&](const std::string& drawing, const std::vector<Term>& fluents) {
                          return of.picture.read_drawn(drawing, fluents);
                        });
      ASSERT_TRUE(read) << form << read.diagnostics().render();
      EXPECT_EQ(*read, step.position) << form;
      EXPECT_EQ(of.picture.drawn(*read), form);
      EXPECT_EQ(of.picture.text({*read}), of.picture.text({step.position}));
      with_board += form.find("(drawn") != std::string::npos ? 1 : 0;
    });
    EXPECT_EQ(with_board, all);
  }
}

TEST(DemoDrawings, InferredBoardsReadBackToo) {
  for (const char* name : {"espalier", "silo", "graft", "channel", "sprinklers", "beeline"}) {
    SCOPED_TRACE(name);
    const Game game = Game::load(testing::game_path(name)).value();
    const Picture picture(game);
    walk(game, 12, 9, [&](const WalkStep& step) {
      if (step.ply % 4 != 0) return;
      const std::string form = picture.drawn(step.position);
      EXPECT_THAT(form, HasSubstr("(drawn"));
    });
  }
}

// Two different pieces of a game never look alike in text.
TEST(DemoDrawings, GlyphsAreUnambiguous) {
  for (const Drawable& of : demo()) {
    SCOPED_TRACE(of.name);
    const auto rules =
        picture::DrawingRules::read(of.game, of.name.substr(0, of.name.size() - 4) + ".draw");
    for (const bool unicode : {true, false}) {
      std::map<std::string, std::string> meant;  // by glyph
      walk(of.game, 7, 60, [&](const WalkStep& step) {
        for (const Term& fact : (*rules)->draw({step.position}).facts) {
          if (fact.name() != "piece") continue;
          const std::vector<Term> arguments = fact.arguments();
          // Of nobody: a figure that nobody plays yet looks as it will.
          if (arguments[2].to_string() == "ink") continue;
          const auto made = picture::scene_of_facts(
              of.game,
              {Term::parse("(spot x 0 0)").value(),
               Term::function("piece", {Term::constant("x"), arguments[1], arguments[2]})});
          const std::string glyph =
              picture::glyph_of(made.scene.boards.front().spots.front().pieces.front(), unicode,
                                of.game.roles().size());
          const std::string what = arguments[1].to_string() + " " + arguments[2].to_string();
          const auto [known, is_new] = meant.try_emplace(glyph, what);
          EXPECT_EQ(known->second, what) << glyph;
        }
      });
    }
  }
}

// Every legal move of a role that has a choice is shown somewhere, but for those that name no
// place.
TEST(DemoDrawings, LegalMovesAreShownWhereTheyAreMade) {
  const std::set<std::string> without_place = {"wait", "pass",  "rest",   "pick", "pull_free",
                                               "ask",  "plant", "shelve", "spin", "hand_out"};
  for (const Drawable& of : demo()) {
    SCOPED_TRACE(of.name);
    walk(of.game, 5, 12, [&](const WalkStep& step) {
      if (of.game.terminal(step.position)) return;
      PictureFrame frame{step.position};
      for (const Role& role : of.game.to_move(step.position)) {
        for (const Move& move : of.game.legal(step.position, role)) {
          frame.moves.push_back({role, move, frame.moves.size()});
        }
      }
      const auto places = of.picture.places(frame);
      for (const NumberedMove& move : frame.moves) {
        if (without_place.contains(move.move.term().name())) continue;
        EXPECT_TRUE(places.contains(move.number)) << move.move;
      }
    });
  }
}

TEST(DemoDrawings, AWinIsHighlightedWhereItStands) {
  const Game game = Game::load(testing::game_path("silo")).value();
  const Picture picture = Picture::load(game, testing::source_path("games/silo.draw")).value();
  std::size_t wins = 0;
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    walk(game, seed, 200, [&](const WalkStep& step) {
      if (!game.terminal(step.position)) return;
      PictureFrame frame{step.position};
      frame.deciding = deciding_fluents(game, step.position);
      const std::string text = picture.text(frame);
      std::size_t marked = 0;
      for (std::size_t at = text.find("«"); at != std::string::npos; at = text.find("«", at + 1)) {
        ++marked;
      }
      EXPECT_EQ(marked, frame.deciding.size());
      wins += marked >= 4 ? 1 : 0;
    });
  }
  EXPECT_GT(wins, 5u);
}

}  // namespace
}  // namespace orchard::drawing_rules_test
