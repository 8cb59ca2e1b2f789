// SVG and other XML while it is written: a tree of the XML library, which escapes whatever needs
// it.
#pragma once

#include <initializer_list>
#include <pugixml.hpp>
#include <string>
#include <string_view>
#include <utility>

namespace orchard {

// An attribute of an element. Numbers have at most one digit behind the point.
struct Attribute {
  Attribute(const char* attribute, std::string_view text) : name(attribute), value(text) {}
  Attribute(const char* attribute, const char* text) : name(attribute), value(text) {}
  Attribute(const char* attribute, std::string text) : name(attribute), value(std::move(text)) {}
  Attribute(const char* attribute, double number);
  Attribute(const char* attribute, int number) : name(attribute), value(std::to_string(number)) {}

  const char* name;
  std::string value;
};

// A number with at most one digit behind the point: 12, 12.5, 0.
std::string short_number(double number);

// Adds an element at the end of `parent`; `text`, if there is any, becomes its content. Names and
// values are made safe (`safe_for_markup`).
pugi::xml_node add_element(pugi::xml_node parent, const char* name,
                           std::initializer_list<Attribute> attributes, std::string_view text = {});

void set_attribute(pugi::xml_node element, const Attribute& attribute);

// A node as text, or all of a document: each element on a line of its own.
std::string markup_text(const pugi::xml_node& node);

}  // namespace orchard
