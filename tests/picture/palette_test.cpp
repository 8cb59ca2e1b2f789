// Colours that can be told apart and read, in light and in dark surroundings.
#include "picture/scene/palette.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "base/markup.hpp"
#include "picture/scene/role_colours.hpp"
#include "picture/written/shapes.hpp"

namespace orchard::picture::palette_test {
namespace {

using ::testing::HasSubstr;

constexpr Tone tones[] = {Tone::first, Tone::second, Tone::third, Tone::fourth,
                          Tone::leaf,  Tone::soil,   Tone::water, Tone::sun,
                          Tone::berry, Tone::stone,  Tone::ink,   Tone::quiet};

// The value of a property of a class: the last rule that gives it counts.
std::string property(const std::string& css, const std::string& name, const std::string& of) {
  std::string value;
  const std::string rule = "." + name + "{";
  for (std::size_t at = css.find(rule); at != std::string::npos; at = css.find(rule, at + 1)) {
    const std::string body = css.substr(at + rule.size(), css.find('}', at) - at - rule.size());
    const std::size_t found = (";" + body).find(";" + of + ":");
    if (found != std::string::npos) value = body.substr(found + of.size() + 1, 7);
  }
  return value;
}

// Relative luminance and contrast as the Web Content Accessibility Guidelines 2.1 define them.
double luminance(const std::string& colour) {
  double result = 0;
  const double weights[] = {0.2126, 0.7152, 0.0722};
  for (int i = 0; i < 3; ++i) {
    const double c =
        std::stoi(colour.substr(1 + 2 * static_cast<std::size_t>(i), 2), nullptr, 16) / 255.0;
    result += weights[i] * (c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4));
  }
  return result;
}
double contrast(const std::string& a, const std::string& b) {
  const double first = luminance(a);
  const double second = luminance(b);
  return (std::max(first, second) + 0.05) / (std::min(first, second) + 0.05);
}

class Palette : public ::testing::TestWithParam<SvgStyle::Light> {};

TEST_P(Palette, WordsAreReadOnEveryGround) {
  const std::string css = style_sheet(GetParam());
  const std::string word = property(css, "word", "fill");
  EXPECT_GE(contrast(word, property(css, "paper", "fill")), 7);
  EXPECT_GE(contrast(property(css, "quiet", "fill"), property(css, "paper", "fill")), 4.5);
  EXPECT_GE(contrast(word, property(css, ground_class(Tone::none), "fill")), 4.5);
  for (const Tone tone : tones) {
    EXPECT_GE(contrast(word, property(css, ground_class(tone), "fill")), 4.5) << ground_class(tone);
  }
}

TEST_P(Palette, LettersAreReadOnEveryPiece) {
  const std::string css = style_sheet(GetParam());
  for (const Tone tone : tones) {
    // Letters on pieces are large and bold, for which 3 is asked.
    EXPECT_GE(
        contrast(property(css, on_class(tone), "fill"), property(css, fill_class(tone), "fill")), 3)
        << on_class(tone);
  }
}

TEST_P(Palette, PiecesStandOutFromTheBoard) {
  const std::string css = style_sheet(GetParam());
  const std::string board = property(css, ground_class(Tone::none), "fill");
  for (const Tone tone : {Tone::first, Tone::second, Tone::third, Tone::fourth}) {
    // By their colour or by their outline.
    const double by_fill = contrast(property(css, fill_class(tone), "fill"), board);
    const double by_edge = contrast(property(css, fill_class(tone), "stroke"), board);
    EXPECT_GE(std::max(by_fill, by_edge), 3) << fill_class(tone);
  }
}

// In print and for eyes that tell few hues: the first two roles differ in lightness alone.
TEST_P(Palette, TheFirstTwoRolesDifferInLightness) {
  const std::string css = style_sheet(GetParam());
  EXPECT_GE(contrast(property(css, fill_class(Tone::first), "fill"),
                     property(css, fill_class(Tone::second), "fill")),
            GetParam() == SvgStyle::Light::light ? 3 : 1.8);
}

// Every two of the colours that roles are named after, in either order.
TEST_P(Palette, RolesNamedAfterColoursAreToldApart) {
  const char* const names[] = {"white",  "black", "red",  "gold",   "yellow",
                               "orange", "green", "blue", "purple", "violet",
                               "pink",   "brown", "grey", "gray",   "silver"};
  for (const std::string first : names) {
    for (const std::string second : names) {
      if (first == second) continue;
      const Game game = Game::from_text("(role " + first + ") (role team_" + second + ")").value();
      const std::string css = style_sheet(GetParam(), role_colours(game));
      const std::string board = property(css, ground_class(Tone::none), "fill");
      for (const Tone tone : {Tone::first, Tone::second}) {
        const std::string fill = property(css, fill_class(tone), "fill");
        EXPECT_GE(contrast(property(css, on_class(tone), "fill"), fill), 3) << first << second;
        const double by_edge = contrast(property(css, fill_class(tone), "stroke"), board);
        EXPECT_GE(std::max(contrast(fill, board), by_edge), 3) << first << second;
      }
      EXPECT_GE(contrast(property(css, fill_class(Tone::first), "fill"),
                         property(css, fill_class(Tone::second), "fill")),
                1.8)
          << first << " " << second;
    }
  }
}

TEST(RoleColours, OnlyNamesThatAreColoursColourARole) {
  const auto colours = role_colours(Game::from_text("(role redwood) (role blue)").value());
  EXPECT_FALSE(colours[0].has_value());
  EXPECT_TRUE(colours[1].has_value());
}

INSTANTIATE_TEST_SUITE_P(Surroundings, Palette,
                         ::testing::Values(SvgStyle::Light::light, SvgStyle::Light::dark));

std::string drawn_alone(const Piece& piece) {
  pugi::xml_document document;
  add_piece(document, piece, 0, 0, 20);
  return markup_text(document);
}

TEST(Shapes, AreAllDifferentAndTurned) {
  std::set<std::string> drawn;
  for (const std::string& name : shape_names()) {
    Piece piece;
    piece.shape = shape_named(name).value();
    piece.tone = Tone::first;
    drawn.insert(drawn_alone(piece));
    piece.pointing = Direction::right;
    EXPECT_THAT(drawn_alone(piece), HasSubstr("rotate(90)")) << name;
  }
  EXPECT_EQ(drawn.size(), shape_names().size());
}

TEST(Shapes, WriteNumbersAndNamesOut) {
  Piece piece;
  piece.shape = Shape::block;
  piece.tone = Tone::sun;
  piece.count = 7;
  EXPECT_THAT(drawn_alone(piece), HasSubstr("×7"));
  piece.letters = "a<b";
  EXPECT_THAT(drawn_alone(piece), HasSubstr("a&lt;b"));
  piece = {};
  piece.shape = Shape::pair;
  piece.letters = "2";
  piece.more_letters = "5";
  const std::string pair = drawn_alone(piece);
  EXPECT_THAT(pair, HasSubstr(">2</text>"));
  EXPECT_THAT(pair, HasSubstr(">5</text>"));
}

}  // namespace
}  // namespace orchard::picture::palette_test
