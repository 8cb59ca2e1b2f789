// What is expected at each part of a form: rules, and files that speak of rules.
#pragma once

#include <cstddef>
#include <span>
#include <string_view>

namespace orchard::editing {

// Which kind of file a text is, by its name.
enum class Paper { rules, cases, claims, drawing, positions };
Paper paper_of(std::string_view file_name);

// What a part of a form is.
enum class Part {
  form,       // a rule or fact at the top, or in a loop there
  head,       // an atom that is concluded
  condition,  // an atom that is asked for, or a formula
  term,
  fluent,
  move,
  loose,  // in cases: whatever the rules know by that name
  range,  // of (exists ?x RANGE FORMULA): a relation, its bare name
};

// Whether a head builds forms around what it holds: a word of a file of cases or claims.
bool is_word(Paper paper, std::string_view head);
// The words that can begin a part of a form.
std::span<const std::string_view> words_of(Paper paper);

// What an argument of a form is, counted from 1, by the head of the form and what the form itself
// is.
Part part_within(Paper paper, std::string_view head, std::size_t argument, Part form);

// Whether a part is an atom rather than a term.
inline bool is_atom(Part part) {
  return part == Part::form || part == Part::head || part == Part::condition;
}

}  // namespace orchard::editing
