#include "game/written_line.hpp"

#include <fmt/core.h>

#include "orchard/line.hpp"
#include "syntax/reader.hpp"

namespace orchard {
namespace {

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

PlayedPly fault(std::string expected, std::string found) {
  return {{}, {}, std::move(expected), std::move(found), {}};
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

PlayedPly play_ply(const Game& game, const Position& position, const WrittenPly& ply) {
  std::vector<std::optional<Move>> moves(game.roles().size());
  for (const auto& [role, move] : ply.moves) {
    const std::vector<Role> who = role ? std::vector<Role>{*role} : game.to_move(position);
    if (who.size() != 1) {
      return fault("one role to move for " + ply.text, nobody_alone(game, position, move, who));
    }
    moves[who.front().index()] = game.move(move);
  }
  PlayedPly result;
  result.joint.emplace();
  for (const Role& role : game.roles()) {
    const std::vector<Move> legal = game.legal(position, role);
    if (!moves[role.index()] && legal.size() == 1) moves[role.index()] = legal.front();
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
    PlayedPly refused = fault("the moves " + ply.text, next.diagnostics().items().front().message);
    refused.remedy = next.diagnostics().items().front().remedy;
    return refused;
  }
  result.next = *next;
  return result;
}

Result<Line> play_line(const Game& game, const Position& start, std::string_view text) {
  Diagnostics diagnostics;
  const Tree tree =
      syntax::read(syntax::Source("line of play", std::string(text)), {}, diagnostics);
  std::vector<WrittenPly> plies;
  for (const NodeIndex form : tree.forms()) {
    plies.push_back(read_ply(game, tree, form, "bad-line", diagnostics));
  }
  if (diagnostics.has_errors()) return diagnostics;
  Line line{{start}, {}};
  for (const WrittenPly& ply : plies) {
    PlayedPly played = play_ply(game, line.positions.back(), ply);
    if (!played.next) {
      Diagnostic diagnostic = plain_error(
          "bad-line", fmt::format("ply {}: {}", line.joints.size() + 1, played.found),
          played.remedy.empty() ? fmt::format("expected {}", played.expected) : played.remedy);
      diagnostic.place = ply.place;
      return diagnostic;
    }
    line.joints.push_back(std::move(*played.joint));
    line.positions.push_back(std::move(*played.next));
  }
  return line;
}

}  // namespace orchard
