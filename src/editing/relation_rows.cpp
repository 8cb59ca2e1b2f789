#include "editing/relation_rows.hpp"

#include <fmt/core.h>

#include "game/core.hpp"

namespace orchard::editing {

Result<RelationRows> rows_of(const Game& game, const Position& position, std::string_view name,
                             std::uint32_t arity, std::size_t most) {
  const GameCore& core = *GameAccess::core(game);
  const auto relation = core.program().description().find(name, arity);
  if (!relation) {
    return plain_error("no-relation", fmt::format("there is no relation {}/{}", name, arity));
  }
  RelationRows result;
  try {
    GameCore::Lease evaluator(core, true);
    evaluator->set_position(GameAccess::state(position).fluents());
    const logic::Table& table = evaluator->reference().instances(*relation);
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      if (result.rows.size() == most) {
        result.all = false;
        break;
      }
      std::vector<Term>& terms = result.rows.emplace_back();
      for (std::uint32_t a = 0; a < table.arity(); ++a) {
        terms.push_back(core.terms().term(table.row(row)[a]));
      }
    }
  } catch (const logic::LimitExceeded& limit) {
    return core.too_large(limit);
  }
  return result;
}

}  // namespace orchard::editing
