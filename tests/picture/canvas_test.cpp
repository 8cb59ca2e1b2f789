// Characters on a raster, and scenes written with them.
#include "picture/written/canvas.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "picture/scene/scene.hpp"
#include "picture/written/text.hpp"

namespace orchard::picture::canvas_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

TEST(Canvas, WallsJoinByThemselves) {
  Canvas canvas(7, 3);
  canvas.wall_right(0, 0, 6);
  canvas.wall_right(0, 2, 6);
  for (const std::size_t x : {0, 3, 6}) canvas.wall_down(x, 0, 2);
  canvas.put(1, 1, "ab");
  EXPECT_EQ(canvas.text(true, false, "", 0),
            "┌──┬──┐\n"
            "│ab│  │\n"
            "└──┴──┘\n");
  EXPECT_EQ(canvas.text(false, false, "", 2),
            "  +--+--+\n"
            "  |ab|  |\n"
            "  +--+--+\n");
}

TEST(Canvas, BrickWallsHaveTheirOwnCorners) {
  Canvas canvas(9, 3);
  canvas.wall_right(0, 1, 8);
  canvas.wall_down(4, 0, 1);
  canvas.wall_down(2, 1, 1);
  canvas.wall_down(8, 0, 2);
  EXPECT_EQ(canvas.text(true, false, "", 0),
            "    │   │\n"
            "──┬─┴───┤\n"
            "  │     │\n");
}

TEST(Canvas, TonesGoRoundRunsAndCountAsNothing) {
  Canvas canvas(5, 1);
  canvas.put(0, 0, "♠♤", "1");
  canvas.put(2, 0, "xyzw");  // what passes the edge is cut
  EXPECT_EQ(canvas.line(0, true, true, ""), "\x1b[1m♠♤\x1b[0mxyz");
  EXPECT_EQ(canvas.line(0, true, false, ""), "♠♤xyz");
}

Scene scene_of(std::vector<Spot> spots) {
  Scene scene;
  scene.roles = 2;
  scene.boards.emplace_back().spots = std::move(spots);
  return scene;
}

Spot spot_at(int down, int half) {
  Spot spot;
  spot.raster_down = 2 * down;
  spot.raster_half = 2 * half;
  spot.row = std::to_string(down + 1);
  spot.column = std::to_string(half + 1);
  spot.x = half + 0.5;
  spot.y = down + 0.5;
  return spot;
}

TEST(Scene, MissingSquaresLeaveNoWalls) {
  const Scene scene = scene_of({spot_at(0, 0), spot_at(1, 1)});
  EXPECT_EQ(to_text(scene, {}),
            "  ┌─────┐\n"
            "  │     │\n"
            "  └─────┼─────┐\n"
            "        │     │\n"
            "        └─────┘\n");
}

TEST(Scene, WideContentsMakeWideCells) {
  Spot spot = spot_at(0, 0);
  Piece piece;
  piece.letters = "a long name";
  spot.pieces.push_back(piece);
  EXPECT_THAT(to_text(scene_of({spot}), {}), HasSubstr("│ a long name │"));
}

TEST(Scene, MarksSayLastAndDeciding) {
  Spot spot = spot_at(0, 0);
  Piece piece;
  piece.shape = Shape::disc;
  piece.tone = Tone::first;
  spot.pieces.push_back(piece);
  spot.marked = true;
  EXPECT_THAT(to_text(scene_of({spot}), {}), HasSubstr("│ [●] │"));
  spot.deciding = true;
  EXPECT_THAT(to_text(scene_of({spot}), {}), HasSubstr("│ «●» │"));
  TextStyle ascii;
  ascii.unicode = false;
  EXPECT_THAT(to_text(scene_of({spot}), ascii), HasSubstr("| {O} |"));
  spot.choices = {3, 7};
  EXPECT_THAT(to_text(scene_of({spot}), {}), HasSubstr("«●»‹3+›"));
}

TEST(Scene, TurningTwiceIsTurningNotAtAll) {
  Scene scene = scene_of({spot_at(0, 0), spot_at(0, 1), spot_at(1, 0)});
  scene.boards.front().rows = {{"a", 0.5, 0}, {"b", 1.5, 2}};
  const std::string before = to_text(scene, {});
  turn(scene);
  EXPECT_NE(to_text(scene, {}), before);
  EXPECT_EQ(scene.boards.front().rows.front().text, "b");
  turn(scene);
  EXPECT_EQ(to_text(scene, {}), before);
}

TEST(Scene, LongListsAreBrokenAtTheWidth) {
  Scene scene;
  for (int i = 0; i < 40; ++i) scene.listed.push_back("(fluent " + std::to_string(i) + ")");
  TextStyle narrow;
  narrow.width = 40;
  std::istringstream lines(to_text(scene, narrow));
  for (std::string line; std::getline(lines, line);) EXPECT_LE(line.size(), 40u) << line;
}

TEST(Scene, GaugesAreScaledToFit) {
  Scene scene;
  scene.counters.push_back({"steps", "450", 450, 900, Tone::water});
  const std::string text = to_text(scene, {});
  EXPECT_THAT(text, HasSubstr("450 of 900"));
  EXPECT_THAT(text, Not(HasSubstr(std::string(100, '='))));
}

TEST(Names, AreSpokenAsWords) {
  EXPECT_EQ(spoken("(spades_left 3)"), "spades left 3");
  EXPECT_EQ(tone_named("berry"), Tone::berry);
  EXPECT_FALSE(tone_named("mauve"));
  EXPECT_EQ(shape_named("drop"), Shape::drop);
  EXPECT_FALSE(shape_named("cloud"));
  EXPECT_TRUE(is_of_role(tone_of_role(5)));
  EXPECT_FALSE(is_of_role(Tone::ink));
}

}  // namespace
}  // namespace orchard::picture::canvas_test
