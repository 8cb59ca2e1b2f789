// A value, or the diagnostics that say why there is none.
//
// Everything a user can get wrong (a file, a move, a position) comes back as a Result. Asking a
// failed Result for its value is a mistake of the program that calls, and throws
// std::logic_error with the rendered diagnostics as its text; so in a short script
//
//   auto game = orchard::Game::load("games/espalier.gdl").value();
//
// is a full treatment of errors. A failure always has a reason: a Result made of empty diagnostics
// throws std::logic_error where it is made. A value like any other: no two threads may change one
// at once.
#pragma once

#include <stdexcept>
#include <type_traits>
#include <utility>
#include <variant>

#include "orchard/diagnostic.hpp"

namespace orchard {

// A value, or why there is none.
template <class Value>
class [[nodiscard]] Result {
 public:
  // Of a value, or of diagnostics.
  Result(Value value) : content_(std::in_place_index<0>, std::move(value)) {}
  // Of a value, or of diagnostics.
  Result(Diagnostics diagnostics) : content_(std::in_place_index<1>, std::move(diagnostics)) {
    if (std::get<1>(content_).empty()) throw std::logic_error("a failure without a reason");
  }
  // Of a value, or of diagnostics.
  Result(Diagnostic diagnostic) : content_(std::in_place_index<1>) {
    std::get<1>(content_).add(std::move(diagnostic));
  }

  // True if there is a value, false if there are diagnostics.
  bool ok() const { return content_.index() == 0; }
  // The same as `ok`.
  explicit operator bool() const { return ok(); }

  // The value; throws std::logic_error if there is none.
  const Value& value() const& {
    require();
    return std::get<0>(content_);
  }
  // The value; throws std::logic_error if there is none.
  Value&& value() && {
    require();
    return std::get<0>(std::move(content_));
  }
  // The value; throws std::logic_error if there is none.
  Value& value() & {
    require();
    return std::get<0>(content_);
  }
  // The same as `value`.
  const Value& operator*() const& { return value(); }
  // The same as `value`.
  Value& operator*() & { return value(); }
  // A pointer to `value`.
  const Value* operator->() const { return &value(); }
  // A pointer to `value`.
  Value* operator->() { return &value(); }

  // The value, or another one where there is none.
  template <class Other>
  Value value_or(Other&& other) const& {
    return ok() ? std::get<0>(content_) : static_cast<Value>(std::forward<Other>(other));
  }
  // What a function makes of the value; the same diagnostics where there is none.
  template <class Function>
  auto map(Function&& function) const& -> Result<std::invoke_result_t<Function, const Value&>> {
    if (!ok()) return diagnostics();
    return std::forward<Function>(function)(std::get<0>(content_));
  }

  // Empty if there is a value.
  const Diagnostics& diagnostics() const {
    static const Diagnostics none;
    return ok() ? none : std::get<1>(content_);
  }

 private:
  void require() const {
    if (!ok()) throw std::logic_error(std::get<1>(content_).render());
  }
  std::variant<Value, Diagnostics> content_;
};

}  // namespace orchard
