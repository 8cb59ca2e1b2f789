// What a picture shows, before anybody decides with which characters or strokes.
//
// Made from a position by drawing rules or by what is inferred from the rules of the game, then
// written as text or as SVG. A value; knows nothing of games.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace orchard::picture {

// Tones of things. The first ones belong to the roles in their order.
enum class Tone : std::uint8_t {
  none,
  first,
  second,
  third,
  fourth,
  leaf,
  soil,
  water,
  sun,
  berry,
  stone,
  ink,
  quiet,
};
constexpr std::size_t role_tones = 4;
std::optional<Tone> tone_named(std::string_view name);
Tone tone_of_role(std::size_t role);
bool is_of_role(Tone tone);

enum class Shape : std::uint8_t {
  letters,  // no shape of its own
  disc,
  block,
  diamond,
  triangle,
  star,
  hexagon,
  drop,
  leaf,
  blossom,
  spiral,
  cross,
  dot,
  half,
  pair,  // two parts side by side, each with its letters
};
std::optional<Shape> shape_named(std::string_view name);
std::vector<std::string> shape_names();
std::vector<std::string> tone_names();

enum class Direction : std::uint8_t { none, up, right, down, left };

struct Piece {
  Shape shape = Shape::letters;
  std::string letters;       // written on it; all there is of Shape::letters
  std::string more_letters;  // on the second part of a pair
  Tone tone = Tone::none;
  Direction pointing = Direction::none;
  std::uint32_t count = 1;
  std::string meaning;  // for the legend; empty if it needs none
};

enum class Outline : std::uint8_t { square, round, flat_hexagon, pointed_hexagon };

struct Spot {
  std::string name;  // "(at 2 3)", or as the drawing rules call it
  std::string row;   // names to type, if it stands in rows and columns
  std::string column;
  double x = 0;  // centre, in squares from the left and from the top
  double y = 0;
  int raster_down = 0;  // for text: half rows from the top
  int raster_half = 0;  // half columns from the left
  Outline outline = Outline::square;
  bool hidden = false;
  bool marked = false;      // the last move
  bool deciding = false;    // why the game is over
  bool unknown = false;     // nothing is known, or true, of it
  bool groundless = false;  // no square is drawn, only what stands there
  Tone ground = Tone::none;
  std::string label;
  std::vector<Piece> pieces;
  std::vector<std::size_t> choices;  // numbers of legal moves
};

struct Link {
  enum class Kind : std::uint8_t { edge, line, arrow, deciding };
  Kind kind = Kind::edge;
  std::size_t from = 0;  // spots
  std::size_t to = 0;
  Tone tone = Tone::none;
};

// A piece that lies on two neighbouring spots.
struct LongPiece {
  std::size_t from = 0;
  std::size_t to = 0;
  Piece piece;
};

struct AxisLabel {
  std::string text;
  double at = 0;   // centre, in squares
  int raster = 0;  // half rows, or half columns
};

struct Board {
  std::string title;  // where there are several
  std::vector<Spot> spots;
  std::vector<Link> links;
  std::vector<LongPiece> long_pieces;
  std::vector<AxisLabel> rows;
  std::vector<AxisLabel> columns;
  std::vector<Piece> legend;
  std::string bare;     // what a blank square means; empty if that goes without saying
  std::string unknown;  // what `?` means, if a spot is unknown
  bool ruled = true;    // lines between the rows, in text
  std::size_t glyph_width = 1;
};

struct Tray {
  std::string name;
  Tone tone = Tone::none;
  std::vector<Piece> pieces;
};

struct Counter {
  std::string name;
  std::string value;
  std::optional<std::uint32_t> number;  // with `most`: drawn as a bar
  std::optional<std::uint32_t> most;
  Tone tone = Tone::none;
};

// How the things of a role are coloured, where the role is named after a colour.
struct RoleColour {
  std::string fill, edge, on;  // "#rrggbb": a thing, its outline, what is written on it
  std::string fill_dark, edge_dark, on_dark;  // the same in dark surroundings
  std::string_view terminal;  // parameters of the ANSI escape that selects a foreground
};
using RoleColours = std::array<std::optional<RoleColour>, role_tones>;

struct Scene {
  std::string title;  // above the picture: "ply 4   east to move"
  std::vector<Board> boards;
  std::vector<Tray> trays;
  std::vector<Counter> counters;
  std::vector<std::string> captions;
  std::vector<std::string> listed;  // fluents that stand nowhere else
  std::size_t roles = 0;
  RoleColours role_colours;
};

// The text of a term for readers: parentheses gone, underscores as spaces.
std::string spoken(std::string_view term_text);

// What is typed for a spot: "2 3".
std::string typed_name(const Spot& spot);

// Boards seen from the opposite side.
void turn(Scene& scene);

// What decides an end, made fit to be seen: spots in one straight line are joined by a stroke, and
// where most of a board decides, as in an end by counting, nothing is highlighted on it.
void settle_deciding(Scene& scene);

}  // namespace orchard::picture
