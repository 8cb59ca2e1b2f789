#include <fmt/core.h>
#include <xxhash.h>

#include <algorithm>
#include <ostream>

#include "game/core.hpp"

namespace orchard {

std::ostream& operator<<(std::ostream& stream, const Role& role) {
  return stream << role.name();
}

Term Move::term() const {
  return core_->terms().term(TermId{id_});
}

std::strong_ordering operator<=>(const Move& a, const Move& b) {
  return a == b ? std::strong_ordering::equal : a.term() <=> b.term();
}

std::size_t JointMove::hash() const {
  std::size_t result = 0;
  for (const Move& move : moves_) result = result * 0x9E3779B97F4A7C15 + move.hash();
  return result;
}

std::ostream& operator<<(std::ostream& stream, const Move& move) {
  return stream << move.to_string();
}

std::string JointMove::to_string() const {
  std::string text = "(";
  for (const Move& move : moves_) {
    if (text.size() > 1) text += ' ';
    text += move.to_string();
  }
  return text + ")";
}

std::ostream& operator<<(std::ostream& stream, const JointMove& joint) {
  return stream << joint.to_string();
}

std::vector<Term> Position::fluents() const {
  const logic::Program& program = state_->core()->program();
  std::vector<TermId> ids = state_->fluents();
  std::ranges::sort(ids, [&](TermId a, TermId b) { return program.compare(a, b) < 0; });
  std::vector<Term> result;
  result.reserve(ids.size());
  for (const TermId id : ids) result.push_back(program.terms().term(id));
  return result;
}

bool Position::holds(const Term& fluent) const {
  const TermId id = state_->core()->terms().find(fluent);
  return id != rules::no_term && state_->holds(id);
}

std::size_t Position::size() const {
  return state_->fluents().size();
}

std::string Position::to_string() const {
  std::string text = "(position";
  for (const Term& fluent : fluents()) text += ' ' + fluent.to_string();
  return text + ")";
}

std::string Position::key() const {
  const std::string text = state_->core()->digest() + to_string();
  const XXH128_hash_t hash = XXH3_128bits(text.data(), text.size());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

std::size_t Position::hash() const {
  return state_->hash();
}

bool operator==(const Position& a, const Position& b) {
  return a.state_ == b.state_ || *a.state_ == *b.state_;
}

std::ostream& operator<<(std::ostream& stream, const Position& position) {
  return stream << position.to_string();
}

}  // namespace orchard
