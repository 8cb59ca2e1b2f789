// Pictures as SVG and PNG: the gallery is the golden file, one picture a demo game.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <fstream>
#include <set>
#include <thread>

#include <pugixml.hpp>

#include "orchard/explain.hpp"
#include "orchard/picture.hpp"
#include "orchard/playouts.hpp"
#include "orchard/png.hpp"
#include "orchard/view.hpp"
#include "support/files.hpp"

namespace orchard::svg_test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;

std::vector<PictureFrame> line_of(const Game& game, std::uint64_t seed, std::uint64_t plies) {
  std::vector<PictureFrame> frames;
  WalkOptions options;
  options.seed = seed;
  options.plies = plies;
  std::optional<JointMove> last;
  (void)random_walk(game, options, [&](const WalkStep& step) {
    PictureFrame frame{step.position};
    frame.title = "ply " + std::to_string(step.ply);
    for (const Role& role : game.roles()) {
      if (last && !game.is_waiting(role, (*last)[role])) {
        frame.last_moves.emplace_back(role, (*last)[role].term());
      }
    }
    frame.deciding = deciding_fluents(game, step.position);
    frames.push_back(std::move(frame));
    last = step.joint;
    return true;
  });
  return frames;
}

Picture picture_of(const Game& game, const std::string& name) {
  return Picture::load(game, testing::source_path("games/" + name + ".draw")).value();
}

// Every number of an attribute of every element.
void expect_inside(const pugi::xml_node& node, double width, double height, double dx, double dy) {
  for (const pugi::xml_node& child : node.children()) {
    double x = dx;
    double y = dy;
    const std::string transform = child.attribute("transform").value();
    if (transform.starts_with("translate(")) {
      char* end = nullptr;
      x += std::strtod(transform.c_str() + 10, &end);
      y += std::strtod(end, &end);
    }
    if (std::string(child.name()) == "text") {
      const double at = x + child.attribute("x").as_double();
      const double down = y + child.attribute("y").as_double();
      EXPECT_GE(at, 0) << child.child_value();
      EXPECT_LE(at, width) << child.child_value();
      EXPECT_GE(down, 8) << child.child_value();
      EXPECT_LE(down, height) << child.child_value();
      const std::string anchor = child.attribute("class").value();
      const double size = child.attribute("font-size").as_double();
      const double wide = 0.66 * size * std::char_traits<char>::length(child.child_value());
      if (anchor.find("middle") == std::string::npos && anchor.find("end") == std::string::npos) {
        EXPECT_LE(at + wide, width + 30) << child.child_value() << " is cut";
      }
    }
    if (std::string(child.name()) == "rect" && child.attribute("x")) {
      EXPECT_GE(x + child.attribute("x").as_double(), 0);
      EXPECT_LE(x + child.attribute("x").as_double() + child.attribute("width").as_double(), width);
      EXPECT_LE(y + child.attribute("y").as_double() + child.attribute("height").as_double(),
                height);
    }
    expect_inside(child, width, height, x, y);
  }
}

TEST(Svg, TheGalleryIsDrawnAsItIs) {
  for (const std::string& path : testing::all_demo_games()) {
    std::string name = path.substr(path.rfind('/') + 1);
    name.resize(name.size() - 4);
    if (name == "espalier_3x3" || name == "terrace_rays") continue;
    SCOPED_TRACE(name);
    const Game game = Game::load(path).value();
    const auto frames = line_of(game, 4, name == "market_day" ? 2 : 12);
    const std::string svg = picture_of(game, name).svg({frames.back()});
    const std::string file = testing::source_path("docs/gallery/" + name + ".svg");
    if (std::getenv("ORCHARD_WRITE_DOCUMENTS") != nullptr) {
      std::ofstream(file) << svg;
      continue;
    }
    EXPECT_EQ(svg, testing::read_file(file)) << "ORCHARD_WRITE_DOCUMENTS=1 brings it up to date";
    const std::string gallery = testing::read_file(testing::source_path("docs/GALLERY.md"));
    EXPECT_THAT(gallery, HasSubstr("gallery/" + name + ".svg"));
  }
}

TEST(Svg, EveryPictureIsWellFormedAndKeepsInside) {
  for (const std::string& path : testing::demo_games()) {
    std::string name = path.substr(path.rfind('/') + 1);
    name.resize(name.size() - 4);
    SCOPED_TRACE(name);
    const Game game = Game::load(path).value();
    const Picture picture = picture_of(game, name);
    for (PictureFrame& frame : line_of(game, 9, 30)) {
      for (const Role& role : game.to_move(frame.position)) {
        for (const Move& move : game.legal(frame.position, role)) {
          frame.moves.push_back({role, move, frame.moves.size() + 1});
        }
      }
      const std::string svg = picture.svg({frame});
      pugi::xml_document document;
      const auto parsed = document.load_string(svg.c_str());
      ASSERT_TRUE(parsed) << parsed.description();
      const pugi::xml_node root = document.child("svg");
      EXPECT_STREQ(root.attribute("role").value(), "img");
      EXPECT_STRNE(root.child("title").child_value(), "");
      EXPECT_STRNE(root.child("desc").child_value(), "");
      expect_inside(root, root.attribute("width").as_double(), root.attribute("height").as_double(),
                    0, 0);
      EXPECT_THAT(svg, Not(HasSubstr("nan")));
    }
  }
}

TEST(Svg, StripsAndAnimationsHoldEveryPosition) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Picture picture = picture_of(game, "espalier_3x3");
  const auto frames = line_of(game, 2, 6);
  const std::string strip = picture.svg(frames);
  const std::string animation = picture.animated_svg(frames);
  for (const PictureFrame& frame : frames) {
    EXPECT_THAT(strip, HasSubstr(">" + frame.title + "</text>"));
    EXPECT_THAT(animation, HasSubstr(">" + frame.title + "</text>"));
  }
  EXPECT_THAT(strip, Not(HasSubstr("<animate")));
  EXPECT_THAT(animation, HasSubstr("dur=\"7.00s\""));
}

// The last position stays longer; files of frames have one size.
TEST(Svg, PaceAndFrames) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Picture picture = picture_of(game, "espalier_3x3");
  const auto frames = line_of(game, 2, 6);
  SvgStyle style;
  style.seconds = 0.5;
  style.last_seconds = 2;
  EXPECT_THAT(picture.animated_svg(frames, style), HasSubstr("dur=\"5.00s\""));
  std::set<std::string> sizes;
  const auto each = picture.svg_each(frames);
  ASSERT_EQ(each.size(), frames.size());
  for (const std::string& svg : each) {
    pugi::xml_document document;
    ASSERT_TRUE(document.load_string(svg.c_str()));
    sizes.insert(document.child("svg").attribute("viewBox").value());
  }
  EXPECT_EQ(sizes.size(), 1u);
}

std::size_t strokes_of_end(const std::string& rules, const std::vector<std::string>& deciding) {
  const Game game = Game::from_text(rules).value();
  std::vector<Term> fluents = game.initial().fluents();
  std::vector<Term> roses;
  for (const std::string& place : deciding) {
    roses.push_back(Term::parse("(bed " + place + " rose)").value());
    std::erase(fluents, Term::parse("(bed " + place + " weed)").value());
  }
  fluents.insert(fluents.end(), roses.begin(), roses.end());
  PictureFrame frame{game.position(fluents).value()};
  frame.deciding = roses;
  const std::string svg = Picture(game).svg({frame});
  const std::string drawn = svg.substr(svg.find("</style>"));
  return static_cast<std::size_t>(drawn.find("deciding-stroke") != std::string::npos) +
         2 * static_cast<std::size_t>(drawn.find("deciding deciding-edge") != std::string::npos);
}

// What decides in a row is struck through; where most of the board decides, nothing stands out.
TEST(Svg, WhatDecidesIsSeen) {
  const std::string rules =
      "(role ann) (n 1) (n 2) (n 3) (<= (init (bed ?x ?y weed)) (n ?x) (n ?y))";
  EXPECT_EQ(strokes_of_end(rules, {"1 1", "2 2", "3 3"}), 3u);
  EXPECT_EQ(strokes_of_end(rules, {"1 1", "2 2", "3 1"}), 2u);
  EXPECT_EQ(strokes_of_end(rules, {"1 1", "2 2", "3 1", "3 2", "3 3"}), 0u);
}

TEST(Svg, ManyThreadsDrawWithOnePicture) {
  const Game game = Game::load(testing::game_path("graft")).value();
  const Picture picture = picture_of(game, "graft");
  const auto frames = line_of(game, 3, 30);
  std::vector<std::string> wanted;
  for (const PictureFrame& frame : frames) wanted.push_back(picture.svg({frame}));
  const Picture fresh = picture_of(game, "graft");
  std::vector<int> differing(4, 0);
  {
    std::vector<std::jthread> threads;
    for (std::size_t t = 0; t < differing.size(); ++t) {
      threads.emplace_back([&, t] {
        for (std::size_t i = 0; i < frames.size(); ++i) {
          differing[t] += fresh.svg({frames[i]}) == wanted[i] ? 0 : 1;
          if (i % 10 == 0) differing[t] += fresh.drawn(frames[i].position).empty() ? 1 : 0;
        }
      });
    }
  }
  for (const int count : differing) EXPECT_EQ(count, 0);
}

TEST(Svg, LightAndDark) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const Picture picture = picture_of(game, "espalier_3x3");
  SvgStyle style;
  EXPECT_THAT(picture.svg({{game.initial()}}, style), HasSubstr("prefers-color-scheme:dark"));
  style.light = SvgStyle::Light::dark;
  const std::string dark = picture.svg({{game.initial()}}, style);
  style.light = SvgStyle::Light::light;
  const std::string light = picture.svg({{game.initial()}}, style);
  EXPECT_THAT(light, Not(HasSubstr("@media")));
  EXPECT_NE(dark, light);
}

TEST(Svg, NamesAreWrittenOut) {
  const Game game = Game::from_text(
                        "(role r) (init (a<b&c)) (legal r x) (<= terminal (true y))"
                        "(goal r 0)")
                        .value();
  PictureFrame frame{game.initial()};
  frame.title = "<script>";
  const std::string svg = Picture(game).svg({frame});
  EXPECT_THAT(svg, HasSubstr("a&lt;b&amp;c"));
  EXPECT_THAT(svg, Not(HasSubstr("<script>")));
}

TEST(Png, IsMadeOfAnySvgOfTheLibrary) {
  const Game game = Game::load(testing::game_path("skep")).value();
  const Picture picture = picture_of(game, "skep");
  const auto png = to_png(picture.svg({{game.initial()}}));
  ASSERT_TRUE(png) << png.diagnostics().render();
  EXPECT_THAT(*png, StartsWith("\x89PNG"));
  EXPECT_THAT(to_png("no picture").diagnostics().render(), HasSubstr("cannot-draw"));
  EXPECT_THAT(to_png("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"90000\" height=\"9\"/>")
                  .diagnostics()
                  .render(),
              HasSubstr("up to 16000 a side"));
}

}  // namespace
}  // namespace orchard::svg_test
