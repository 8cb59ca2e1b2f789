#include "cli/page.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "orchard/match.hpp"
#include "picture/face/frames.hpp"

namespace orchard::cli {
namespace {

std::string names(const std::vector<Role>& roles) {
  std::string text;
  for (const Role& role : roles) text += (text.empty() ? "" : " and ") + role.name();
  return text;
}

// Items in as many columns as fit the width, read downwards row by row.
std::string in_columns(const std::vector<std::string>& items, int width) {
  constexpr std::size_t gap = 3;
  std::size_t longest = 0;
  for (const std::string& item : items) longest = std::max(longest, item.size());
  const std::size_t columns =
      std::max<std::size_t>(1, static_cast<std::size_t>(std::max(width, 20)) / (longest + gap));
  std::string text;
  for (std::size_t i = 0; i < items.size(); ++i) {
    const bool last = i + 1 == items.size() || (i + 1) % columns == 0;
    text += std::string(gap, ' ') + items[i];
    text += last ? "\n" : std::string(longest - items[i].size(), ' ');
  }
  return text;
}

}  // namespace

std::string heading(const Game& game, const Position& position, std::uint64_t ply) {
  if (game.terminal(position)) {
    return fmt::format("ply {}   over: {}\n", ply, describe(game, outcome_of(game, position)));
  }
  std::vector<Role> stuck;
  for (const Role& role : game.roles()) {
    if (game.legal(position, role).empty()) stuck.push_back(role);
  }
  if (!stuck.empty()) {
    return fmt::format("ply {}   not over, but {} {} no legal move\n", ply, names(stuck),
                       stuck.size() == 1 ? "has" : "have");
  }
  return fmt::format("ply {}   {} to move\n", ply, names(game.to_move(position)));
}

std::vector<NumberedMove> numbered_moves(const Game& game, const Position& position,
                                         const std::vector<Role>& roles) {
  std::vector<NumberedMove> moves;
  for (const Role& role : roles) {
    for (const Move& move : game.legal(position, role)) {
      moves.push_back({role, move, moves.size() + 1});
    }
  }
  return moves;
}

std::string move_list(const Game& game, const Position& position,
                      const std::vector<NumberedMove>& moves, const TextStyle& style,
                      bool numbered_only) {
  std::string text;
  const std::size_t digits = std::to_string(moves.size()).size();
  for (const Role& role : game.roles()) {
    std::vector<std::string> items;
    for (const NumberedMove& move : moves) {
      if (move.role == role) {
        items.push_back(fmt::format("{:>{}} {}", move.number, digits, move.move.to_string()));
      }
    }
    if (!items.empty()) {
      text += fmt::format("legal for {}:\n{}", role.name(), in_columns(items, style.width));
      continue;
    }
    const std::vector<Move> others = game.legal(position, role);
    if (others.empty() || numbered_only) continue;
    text += fmt::format("legal for {}:", role.name());
    for (const Move& move : others) text += " " + move.to_string();
    text += "\n";
  }
  return text;
}

PictureFrame frame_of(const Game& game, const Position& position,
                      const std::optional<JointMove>& last, bool with_moves) {
  PictureFrame frame = picture::frame_of(game, position, last);
  if (with_moves && !game.terminal(position)) {
    frame.moves = numbered_moves(game, position, game.to_move(position));
  }
  return frame;
}

std::size_t positions_to_track(const Picture& picture, const Position& start, const Role& role) {
  constexpr std::size_t few = 10'000;
  return picture.visible(start, role) ? few : View::usual_positions;
}

std::optional<PictureFrame> frame_of(const Game& game, const Picture& picture, const View& view,
                                     const Position& position, bool with_moves) {
  if (game.terminal(position)) return frame_of(game, position, {}, false);
  auto fluents =
      view.exact() ? std::optional(view.known()) : picture.visible(position, view.role());
  if (!fluents) return std::nullopt;
  const auto known = game.position(*fluents);
  if (!known) return std::nullopt;
  PictureFrame frame{*known};
  frame.partial = !view.exact() || view.positions() > 1;
  frame.viewer = view.role();
  for (const View::Step& step : view.steps()) {
    frame.perceived.insert(frame.perceived.end(), step.percepts.begin(), step.percepts.end());
  }
  const std::vector<Role> to_move = game.to_move(position);
  if (with_moves && std::ranges::find(to_move, view.role()) != to_move.end()) {
    frame.moves = numbered_moves(game, position, {view.role()});
  }
  return frame;
}

std::string line_text(const Game& game, const Line& line) {
  constexpr std::size_t most = 60;  // plies shown; of a longer line the first and last ones
  std::string text;
  for (std::size_t ply = 0; ply < line.joints.size(); ++ply) {
    if (line.joints.size() > most && ply >= most / 2 && ply + most / 2 < line.joints.size()) {
      if (ply == most / 2) text += fmt::format("     … {} plies …\n", line.joints.size() - most);
      continue;
    }
    text += fmt::format("   {:>3}", ply + 1);
    for (const Role& role : game.to_move(line.positions[ply])) {
      text += fmt::format("   {} {}", role.name(), line.joints[ply][role].to_string());
    }
    text += "\n";
  }
  return text;
}

std::string page(const Game& game, const Picture& picture, const Position& position,
                 std::uint64_t ply, const TextStyle& style, bool with_moves,
                 const std::optional<JointMove>& last) {
  const PictureFrame frame = frame_of(game, position, last, with_moves);
  std::string text = heading(game, position, ply);
  if (!frame.last_moves.empty()) {
    text.pop_back();
    text += "   last:";
    for (const auto& [role, move] : frame.last_moves) {
      text += fmt::format(" {} {}", role.name(), move.to_string());
    }
    text += "\n";
  }
  text += "\n" + picture.text(frame, style);
  if (with_moves && !game.terminal(position)) {
    text += "\n" + move_list(game, position, frame.moves, style);
  }
  return text;
}

std::string view_page(const Game& game, const Picture& picture, const View& view,
                      const Position& position, std::uint64_t ply, const TextStyle& style,
                      bool with_moves, std::uint64_t from) {
  if (game.terminal(position)) return page(game, picture, position, ply, style, false);
  std::string text = heading(game, position, ply);
  const std::string& who = view.role().name();
  const auto frame = frame_of(game, picture, view, position, with_moves);
  if (frame) {
    text += fmt::format("seen by {}: {}\n\n", who,
                        !view.exact() ? "what the drawing rules let it see"
                        : view.positions() == 1
                            ? "everything"
                            : fmt::format("what holds in all {} positions that fit what it knows",
                                          view.positions()));
    text += picture.text(*frame, style);
  } else {
    text +=
        fmt::format("seen by {}: too many positions fit to keep track of; all it has seen:\n", who);
  }
  if (!frame || !view.exact()) from = 0;
  const std::vector<View::Step>& steps = view.steps();
  for (std::uint64_t at = from; at < steps.size(); ++at) {
    if (steps[at].percepts.empty()) continue;
    std::string line = fmt::format("   ply {}: {} sees", at + 1, who);
    for (const Term& percept : steps[at].percepts) {
      const std::string next = " " + percept.to_string();
      if (line.size() + next.size() > static_cast<std::size_t>(std::max(style.width, 20))) {
        text += line + "\n";
        line = "      ";
      }
      line += next;
    }
    text += line + "\n";
  }
  const std::vector<Role> to_move = game.to_move(position);
  const bool chooses = with_moves && std::ranges::find(to_move, view.role()) != to_move.end();
  if (chooses) {
    const auto moves = numbered_moves(game, position, {view.role()});
    text += "\n" + move_list(game, position, moves, style, true);
  }
  return text;
}

}  // namespace orchard::cli
