// A page of HTML that needs nothing else: no script, no file, no network.
#pragma once

#include <initializer_list>
#include <string>
#include <string_view>

#include "base/markup.hpp"

namespace orchard::report {

// An element that may be empty: unlike in XML, HTML wants an end tag of its own even then.
pugi::xml_node add_html(pugi::xml_node parent, const char* name,
                        std::initializer_list<Attribute> attributes, std::string_view text = {});
void add_text(pugi::xml_node parent, std::string_view text);

// A page with a title and a heading; what it says is added to the body.
class Page {
 public:
  Page(std::string_view title, std::string_view heading);

  pugi::xml_node body() const { return body_; }
  std::string text() const;

 private:
  pugi::xml_document page_;
  pugi::xml_node body_;
};

}  // namespace orchard::report
