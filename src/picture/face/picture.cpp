#include "orchard/picture.hpp"

#include <algorithm>
#include <mutex>
#include <set>
#include <utility>

#include "game/lane_game.hpp"
#include "picture/inferred/layout.hpp"
#include "picture/inferred/marks.hpp"
#include "picture/inferred/scene_of_layout.hpp"
#include "picture/read/drawn_board.hpp"
#include "picture/ruled/drawing_rules.hpp"
#include "picture/ruled/scene_of_facts.hpp"
#include "picture/written/svg.hpp"
#include "picture/written/text.hpp"

namespace orchard {

using picture::DrawingRules;
using picture::Scene;
using picture::SceneOfFacts;

// Inferring looks at play, which costs more than drawing: done once, and only where it is needed.
struct Picture::Inferred {
  std::once_flag once;
  std::unique_ptr<const PictureLayout> layout;
  std::once_flag board_once;
  std::unique_ptr<const picture::DrawnBoard> board;
};

Picture::Picture(const Game& game) : Picture(game, nullptr) {
  (void)layout();
}

Picture::Picture(const Game& game, std::shared_ptr<const DrawingRules> rules)
    : game_(game), inferred_(std::make_shared<Inferred>()), rules_(std::move(rules)) {}

const PictureLayout& Picture::layout() const {
  std::call_once(inferred_->once, [this] {
    inferred_->layout = std::make_unique<PictureLayout>(*GameAccess::core(game_));
  });
  return *inferred_->layout;
}

Result<Picture> Picture::load(const Game& game, const std::string& path) {
  auto rules = DrawingRules::read(game, path);
  if (!rules) return rules.diagnostics();
  return Picture(game, *rules);
}

Result<Picture> Picture::from_text(const Game& game, std::string rules, std::string name) {
  auto read = DrawingRules::from_text(game, std::move(rules), std::move(name));
  if (!read) return read.diagnostics();
  return Picture(game, *read);
}

const Diagnostics& Picture::findings() const {
  static const Diagnostics none;
  return rules_ ? rules_->findings() : none;
}

const Diagnostics& Picture::hints() const {
  static const Diagnostics none;
  return rules_ ? rules_->hints() : none;
}

bool Picture::shows_percepts() const {
  return rules_ && rules_->asks_for_percepts();
}

bool Picture::has_board() const {
  return rules_ != nullptr || !layout().boards().empty();
}

namespace {

// Numbers of legal moves at the places where they are shown.
void mark_choices(const PictureFrame& frame, SceneOfFacts& made) {
  for (const NumberedMove& move : frame.moves) {
    const Term term = move.move.term();
    for (const picture::Choice& choice : made.choices) {
      if (choice.role != move.role.name() || choice.move != term) continue;
      const auto spot = made.spots.find(choice.place);
      if (spot == made.spots.end()) continue;
      made.scene.boards.front().spots[spot->second].choices.push_back(move.number);
    }
  }
}

Scene completed(Scene scene, const PictureFrame& frame) {
  scene.title = frame.title;
  scene.captions.insert(scene.captions.end(), frame.captions.begin(), frame.captions.end());
  settle_deciding(scene);
  return scene;
}

}  // namespace

Scene Picture::scene(const PictureFrame& frame) const {
  if (rules_) {
    const DrawingRules::Drawn drawn = rules_->draw(frame);
    if (drawn.complete) {
      SceneOfFacts made = picture::scene_of_facts(game_, drawn.facts);
      mark_choices(frame, made);
      for (const Term& fluent : frame.deciding) {
        for (const std::string& place : picture::places_of(rules_->drawn_of(fluent))) {
          const auto spot = made.spots.find(place);
          if (spot != made.spots.end()) {
            made.scene.boards.front().spots[spot->second].deciding = true;
          }
        }
      }
      return completed(std::move(made.scene), frame);
    }
  }
  Scene scene = picture::scene_of_layout(game_, layout(), frame);
  if (rules_)
    scene.captions.emplace_back("The drawing rules cost too much here; drawn without them");
  return completed(std::move(scene), frame);
}

std::string Picture::text(const PictureFrame& frame, const TextStyle& style) const {
  Scene made = scene(frame);
  if (style.turned) turn(made);
  return to_text(made, style);
}

std::vector<Scene> Picture::scenes(const std::vector<PictureFrame>& frames, bool turned) const {
  std::vector<Scene> result;
  for (const PictureFrame& frame : frames) {
    result.push_back(scene(frame));
    if (turned) turn(result.back());
  }
  return result;
}

std::string Picture::svg(const std::vector<PictureFrame>& frames, const SvgStyle& style) const {
  return picture::to_svg(scenes(frames, style.turned), game_.name(), style, false);
}

std::string Picture::animated_svg(const std::vector<PictureFrame>& frames,
                                  const SvgStyle& style) const {
  return picture::to_svg(scenes(frames, style.turned), game_.name(), style, true);
}

std::vector<std::string> Picture::svg_each(const std::vector<PictureFrame>& frames,
                                           const SvgStyle& style) const {
  return picture::to_svg_each(scenes(frames, style.turned), game_.name(), style);
}

std::map<std::size_t, std::vector<std::string>> Picture::places(const PictureFrame& frame) const {
  std::map<std::size_t, std::vector<std::string>> result;
  for (const picture::Board& board : scene(frame).boards) {
    if (board.spots.empty()) continue;
    // What is the same all over the board is not written on it, and need not be typed.
    const auto all_share = [&](std::string picture::Spot::*label) {
      return board.spots.size() > 1 &&
             std::ranges::all_of(board.spots, [&](const picture::Spot& spot) {
               return !(spot.*label).empty() && spot.*label == board.spots.front().*label;
             });
    };
    const bool one_row = all_share(&picture::Spot::row);
    const bool one_column = all_share(&picture::Spot::column);
    // On a board labelled c3 both orders are understood.
    const bool either_order = std::ranges::none_of(board.rows, [&](const picture::AxisLabel& row) {
      return std::ranges::find(board.columns, row.text, &picture::AxisLabel::text) !=
             board.columns.end();
    });
    for (const picture::Spot& spot : board.spots) {
      for (const std::size_t number : spot.choices) {
        result[number].push_back(typed_name(spot));
        if (one_row) result[number].push_back(spot.column);
        if (one_column) result[number].push_back(spot.row);
        if (either_order && !spot.row.empty()) {
          result[number].push_back(spot.column + " " + spot.row);
        }
      }
    }
  }
  return result;
}

std::optional<std::vector<Term>> Picture::visible(const Position& position,
                                                  const Role& role) const {
  if (!rules_) return std::nullopt;
  PictureFrame frame{position};
  std::vector<Term> fluents;
  for (const Term& fact : rules_->draw(frame).facts) {
    if (fact.name() != "visible" || fact.arity() != 2) continue;
    const std::vector<Term> arguments = fact.arguments();
    if (arguments[0].to_string() == role.name()) fluents.push_back(arguments[1]);
  }
  if (fluents.empty()) return std::nullopt;
  std::ranges::sort(fluents);
  fluents.erase(std::unique(fluents.begin(), fluents.end()), fluents.end());
  return fluents;
}

namespace {

constexpr std::size_t most_trials = 2000;  // drawings made to find out what a drawing means

std::string in_string(std::string_view text) {
  std::string result;
  for (const char c : text) {
    if (c == '"' || c == '\\') result += '\\';
    result += c;
  }
  return result;
}

// The fluents that some line of play could foresee.
std::vector<Term> possible_fluents(const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  std::vector<Term> result;
  const LaneGame* lanes = core.lanes();
  if (lanes == nullptr) return result;
  for (const auto& fluent : lanes->ground().fluents()) {
    result.push_back(core.terms().term(fluent.term));
  }
  return result;
}

}  // namespace

const picture::DrawnBoard& Picture::drawn_board() const {
  std::call_once(inferred_->board_once, [this] {
    inferred_->board = std::make_unique<picture::DrawnBoard>(scene({game_.initial()}), standings());
  });
  return *inferred_->board;
}

// What single fluents draw, in squares.
std::vector<picture::Standing> Picture::standings() const {
  const GameCore& core = *GameAccess::core(game_);
  std::vector<picture::Standing> result;
  const std::vector<Term> fluents = possible_fluents(game_);
  const Scene start = scene({game_.initial()});
  for (const Term& fluent : fluents) {
    if (!rules_) {
      const auto placed = layout().place(core, core.terms().find(fluent));
      if (!placed) continue;
      const BoardLayout& board = layout().boards()[placed->square.board];
      const std::size_t number = placed->square.row * squares_across(board) + placed->square.column;
      result.push_back({fluent, start.boards[placed->square.board].spots[number].name,
                        placed->content == board.bare
                            ? std::string()
                            : layout().glyph(core, board, placed->content).text});
      continue;
    }
    const std::vector<Term> facts = rules_->drawn_of(fluent);
    const std::vector<std::string> places = picture::places_of(facts);
    if (places.size() != 1) continue;
    result.push_back({fluent, places.front(), picture::glyphs_of(game_, facts)});
  }
  if (rules_) picture::add_unseen(fluents, result);
  return result;
}

std::string Picture::drawn(const Position& position, const std::string& name) const {
  const std::string title = name.empty() ? "" : " \"" + in_string(name) + "\"";
  const Scene shown = scene({position});
  std::string drawing;
  for (std::size_t b = 0; b < shown.boards.size(); ++b) {
    drawing += (b == 0 ? "" : "\n") + picture::board_text(shown, b, {}).text;
  }
  if (!shown.boards.empty()) {
    const picture::DrawnBoard& board = drawn_board();
    const auto told = squares_of(board, drawing, {});
    if (told) {
      std::string rest;
      std::vector<Term> others;
      // Squares that would be read differently have their fluents written out.
      std::set<Term> shown_ones;
      for (std::size_t spot = 0; spot < told->size(); ++spot) {
        const std::set<Term> read_here((*told)[spot].begin(), (*told)[spot].end());
        std::set<Term> here;
        for (const picture::Standing& standing : board.standing_at(spot)) {
          if (position.holds(standing.fluent)) here.insert(standing.fluent);
        }
        const bool right = std::ranges::includes(here, read_here);
        if (right) shown_ones.insert(read_here.begin(), read_here.end());
      }
      for (const Term& fluent : position.fluents()) {
        if (!shown_ones.contains(fluent)) others.push_back(fluent);
      }
      for (const Term& fluent : others) rest += "\n  " + fluent.to_string();
      const auto read = read_drawn(drawing, others);
      if (read && *read == position) {
        return "(position" + title + " (drawn \"\n" + in_string(drawing) + "\")" + rest + ")\n";
      }
    }
  }
  std::string form = position.to_string();
  if (!title.empty()) form.insert(std::string_view("(position").size(), title);
  return form + "\n";
}

Result<Position> Picture::read_drawn(const std::string& drawing,
                                     const std::vector<Term>& fluents) const {
  if (scene({game_.initial()}).boards.empty()) {
    return plain_error("bad-drawing", "there is no board to draw for this game",
                       "write the fluents out: (position FLUENT…)");
  }
  const picture::DrawnBoard& board = drawn_board();
  const auto in_squares = squares_of(board, drawing, fluents);
  if (!in_squares) return in_squares.diagnostics();
  const auto position = with_squares(*in_squares, fluents);
  if (!position) return position.diagnostics();
  const Diagnostics differences = board.compare(drawing, scene({*position}));
  if (!differences.empty()) return differences;
  return position;
}

Result<Position> Picture::with_squares(const std::vector<std::vector<Term>>& in_squares,
                                       const std::vector<Term>& fluents) const {
  std::vector<Term> all = fluents;
  for (const auto& here : in_squares) all.insert(all.end(), here.begin(), here.end());
  return game_.position(all);
}

// What was taken for one thing may be another that looks alike: squares that come out differently
// try what else can stand there.
Result<std::vector<std::vector<Term>>> Picture::squares_of(const picture::DrawnBoard& board,
                                                           const std::string& drawing,
                                                           const std::vector<Term>& fluents) const {
  const auto read = board.read(drawing);
  if (!read) return read.diagnostics();
  std::vector<std::vector<Term>> in_squares = *read;
  // Where fluents are written out, they come first.
  for (std::size_t spot = 0; spot < in_squares.size(); ++spot) {
    const auto is_written = [&](const picture::Standing& standing) {
      return std::ranges::find(fluents, standing.fluent) != fluents.end();
    };
    if (std::ranges::any_of(board.standing_at(spot), is_written)) in_squares[spot].clear();
  }
  const auto wrong_with = [&](const std::vector<std::vector<Term>>& squares) {
    const auto position = with_squares(squares, fluents);
    return position ? board.differing(drawing, scene({*position})) : std::vector<std::size_t>{};
  };
  if (const auto position = with_squares(in_squares, fluents); !position) {
    return position.diagnostics();
  }
  // Square by square, since one may change how others look; what does not help is left as it was.
  std::vector<std::size_t> wrong = wrong_with(in_squares);
  std::size_t trials = 0;
  for (bool better = true; better && !wrong.empty();) {
    better = false;
    for (const std::size_t spot : std::vector<std::size_t>(wrong)) {
      for (const auto& other : board.alternatives(spot)) {
        if (++trials > most_trials) return in_squares;
        const std::vector<Term> before = std::exchange(in_squares[spot], other);
        std::vector<std::size_t> now = wrong_with(in_squares);
        if (now.size() < wrong.size()) {
          wrong = std::move(now);
          better = true;
          break;
        }
        in_squares[spot] = before;
      }
    }
  }
  return in_squares;
}

}  // namespace orchard
