#include "base/markup.hpp"

#include <fmt/core.h>

#include <sstream>

#include "base/utf8.hpp"

namespace orchard {

Attribute::Attribute(const char* attribute, double number)
    : name(attribute), value(short_number(number)) {}

std::string short_number(double number) {
  std::string text = fmt::format("{:.1f}", number);
  if (text.ends_with(".0")) text.resize(text.size() - 2);
  return text == "-0" ? "0" : text;
}

void set_attribute(pugi::xml_node element, const Attribute& attribute) {
  element.append_attribute(attribute.name) = safe_for_markup(attribute.value).c_str();
}

pugi::xml_node add_element(pugi::xml_node parent, const char* name,
                           std::initializer_list<Attribute> attributes, std::string_view text) {
  pugi::xml_node element = parent.append_child(name);
  for (const Attribute& attribute : attributes) set_attribute(element, attribute);
  if (!text.empty())
    element.append_child(pugi::node_pcdata).set_value(safe_for_markup(text).c_str());
  return element;
}

std::string markup_text(const pugi::xml_node& node) {
  std::ostringstream stream;
  node.print(stream, "", pugi::format_indent | pugi::format_no_declaration, pugi::encoding_utf8);
  return stream.str();
}

}  // namespace orchard
