#include "game/written_line.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "orchard/line.hpp"
#include "syntax/reader.hpp"

namespace orchard {
namespace {

constexpr std::size_t most_drawn = 10'000;  // plies of chance before one that is written

using syntax::NodeIndex;
using syntax::Tree;

std::string text_of(const Tree& tree, NodeIndex node) {
  return tree.canonical_text(node, node + tree[node].size);
}

std::optional<Term> term_of(const Tree& tree, NodeIndex node, Diagnostics& diagnostics) {
  auto result = syntax::term_of(tree, node);
  if (result) return *result;
  diagnostics.append(result.diagnostics());
  return std::nullopt;
}

void read_role_move(const Game& game, const Tree& tree, NodeIndex node, const std::string& code,
                    WrittenPly& ply, Diagnostics& diagnostics) {
  const std::vector<NodeIndex> parts = tree.children(node);
  if (parts.size() != 2) {
    syntax::report(tree, node, code, "expected a role and its move", "write (ROLE MOVE)",
                   diagnostics);
    return;
  }
  const auto role = game.role(text_of(tree, parts[0]));
  if (!role) {
    std::string names;
    for (const Role& known : game.roles()) names += (names.empty() ? "" : ", ") + known.name();
    syntax::report(tree, parts[0], code, fmt::format("{} is not a role", text_of(tree, parts[0])),
                   "the roles are " + names, diagnostics);
  }
  auto move = term_of(tree, parts[1], diagnostics);
  if (role && move) ply.moves.emplace_back(role, std::move(*move));
}

// Why a move without its role is nobody's.
std::string nobody_alone(const Game& game, const Position& position, const Term& move,
                         const std::vector<Role>& who) {
  if (game.terminal(position)) return "the game is over";
  if (who.empty()) return "nobody has a choice here";
  std::string names;
  std::string joint;
  for (const Role& role : who) {
    names += (names.empty() ? "" : role == who.back() ? " and " : ", ") + role.name();
    joint += fmt::format(" ({} {})", role.name(), joint.empty() ? move.to_string() : "MOVE");
  }
  return fmt::format("{} choose at once; write (joint{})", names, joint);
}

// Whether a written move is one of those, or looks like one of them and is perhaps misspelt.
bool looks_like_one_of(const std::vector<Move>& moves, const Term& written) {
  return std::ranges::any_of(moves, [&](const Move& move) {
    const Term term = move.term();
    return term.name() == written.name() && term.arity() == written.arity();
  });
}

// A joint move in which chance alone chooses, drawn, if it is to come before the ply: the ply is
// about nothing that could be done now.
std::optional<JointMove> chance_before(const Game& game, const Position& position,
                                       const WrittenPly& ply, Random& random) {
  if (game.terminal(position)) return std::nullopt;
  JointMove joint;
  bool drawn = false;
  for (const Role& role : game.roles()) {
    const std::vector<Move> legal = game.legal(position, role);
    if (legal.empty() || (legal.size() > 1 && !role.is_chance())) return std::nullopt;
    for (const auto& [whose, move] : ply.moves) {
      const bool meant = role.is_chance()
                             ? whose == role || (!whose && looks_like_one_of(legal, move))
                             : whose == role && looks_like_one_of(legal, move);
      if (meant) return std::nullopt;
    }
    drawn = drawn || (role.is_chance() && !game.is_waiting(role, legal.front()));
    joint.add(legal[legal.size() == 1 ? 0 : random.below(legal.size())]);
  }
  return drawn ? std::optional(joint) : std::nullopt;
}

}  // namespace

WrittenPly read_ply(const Game& game, const Tree& tree, NodeIndex node, const std::string& code,
                    Diagnostics& diagnostics) {
  WrittenPly ply;
  ply.place = tree.place(node);
  ply.text = text_of(tree, node);
  const std::vector<NodeIndex> parts = tree.children(node);
  if (tree.head(node) == "joint") {
    for (std::size_t i = 1; i < parts.size(); ++i) {
      read_role_move(game, tree, parts[i], code, ply, diagnostics);
    }
  } else if (parts.size() == 2 && game.role(text_of(tree, parts[0]))) {
    read_role_move(game, tree, node, code, ply, diagnostics);
  } else if (auto move = term_of(tree, node, diagnostics)) {
    ply.moves.emplace_back(std::nullopt, std::move(*move));
  }
  return ply;
}

PlayedPly play_ply(const Game& game, const Position& start, const WrittenPly& ply, Random& random) {
  PlayedPly result;
  result.drawn.positions.push_back(start);
  while (const auto joint = chance_before(game, result.drawn.last(), ply, random)) {
    auto next = game.next(result.drawn.last(), *joint);
    if (!next || result.drawn.joints.size() == most_drawn) break;
    result.drawn.joints.push_back(*joint);
    result.drawn.positions.push_back(std::move(*next));
    end_if_interrupted();
  }
  const Position& position = result.drawn.last();
  const auto fault = [&](std::string expected, std::string found) {
    result.joint.reset();
    result.expected = std::move(expected);
    result.found = std::move(found);
    return result;
  };
  std::vector<std::optional<Move>> moves(game.roles().size());
  for (const auto& [role, move] : ply.moves) {
    std::vector<Role> who = role ? std::vector<Role>{*role} : game.to_move(position);
    if (who.size() > 1) std::erase_if(who, [](const Role& each) { return each.is_chance(); });
    if (who.size() != 1) {
      return fault("one role to move for " + ply.text, nobody_alone(game, position, move, who));
    }
    moves[who.front().index()] = game.move(move);
  }
  result.joint.emplace();
  for (const Role& role : game.roles()) {
    const std::vector<Move> legal = game.legal(position, role);
    if (!moves[role.index()] && (legal.size() == 1 || (role.is_chance() && !legal.empty()))) {
      moves[role.index()] = legal[legal.size() == 1 ? 0 : random.below(legal.size())];
    }
    if (!moves[role.index()]) {
      return fault("a move for " + role.name(), game.terminal(position) ? "the game is over"
                                                : legal.empty()
                                                    ? "it has no legal move"
                                                    : "it has a choice; write (joint …)");
    }
    result.joint->add(*moves[role.index()]);
  }
  auto next = game.next(position, *result.joint);
  if (!next) {
    result.remedy = next.diagnostics().items().front().remedy;
    return fault("the moves " + ply.text, next.diagnostics().items().front().message);
  }
  result.next = *next;
  return result;
}

Result<Line> play_line(const Game& game, const Position& start, std::string_view text,
                       std::uint64_t seed) {
  Diagnostics diagnostics;
  const Tree tree =
      syntax::read(syntax::Source("line of play", std::string(text)), {}, diagnostics);
  std::vector<WrittenPly> plies;
  for (const NodeIndex form : tree.forms()) {
    plies.push_back(read_ply(game, tree, form, "bad-line", diagnostics));
  }
  if (diagnostics.has_errors()) return diagnostics;
  Line line{{start}, {}};
  Random random(seed);
  for (const WrittenPly& ply : plies) {
    PlayedPly played = play_ply(game, line.last(), ply, random);
    if (!played.next) {
      Diagnostic diagnostic = plain_error(
          "bad-line",
          fmt::format("ply {}: {}", line.joints.size() + played.drawn.joints.size() + 1,
                      played.found),
          played.remedy.empty() ? fmt::format("expected {}", played.expected) : played.remedy);
      diagnostic.place = ply.place;
      return diagnostic;
    }
    const Line& drawn = played.drawn;
    line.joints.insert(line.joints.end(), drawn.joints.begin(), drawn.joints.end());
    line.positions.insert(line.positions.end(), drawn.positions.begin() + 1, drawn.positions.end());
    line.joints.push_back(std::move(*played.joint));
    line.positions.push_back(std::move(*played.next));
  }
  return line;
}

}  // namespace orchard
