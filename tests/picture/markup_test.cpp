// What is written as XML reads back as it was meant, whatever stands in names and texts.
#include "base/markup.hpp"

#include <gtest/gtest.h>

#include "base/utf8.hpp"
#include "support/files.hpp"

namespace orchard::markup_test {
namespace {

TEST(Markup, NumbersAreShort) {
  const std::pair<double, const char*> numbers[] = {{0, "0"},      {12, "12"},    {12.5, "12.5"},
                                                    {12.04, "12"}, {-0.04, "0"},  {-3.25, "-3.2"},
                                                    {0.96, "1"},   {1280, "1280"}};
  for (const auto& [number, text] : numbers) EXPECT_EQ(short_number(number), text);
}

TEST(Markup, EveryTextReadsBack) {
  const std::string awkward = "a<b & \"c\" > 'd' \u00d7 \u0416";
  pugi::xml_document document;
  const pugi::xml_node root = add_element(document, "svg", {{"title", awkward}, {"x", 2.5}});
  add_element(root, "text", {{"y", 3}}, awkward);
  set_attribute(root, {"role", "img"});
  pugi::xml_document read;
  ASSERT_TRUE(read.load_string(markup_text(document).c_str()));
  const pugi::xml_node svg = read.child("svg");
  EXPECT_EQ(svg.attribute("title").as_string(), awkward);
  EXPECT_EQ(svg.attribute("role").as_string(), std::string("img"));
  EXPECT_EQ(svg.attribute("x").as_double(), 2.5);
  EXPECT_EQ(svg.child("text").text().as_string(), awkward);
  EXPECT_EQ(svg.child("text").attribute("y").as_int(), 3);
}

TEST(Markup, WhatXmlCannotHoldIsReplaced) {
  EXPECT_EQ(safe_for_markup("a\x01"
                            "b\tc\nd\x1b\uFFFE\u202E\xE9z"),
            "a\uFFFD"
            "b\tc\nd\uFFFD\uFFFD\uFFFD\uFFFDz");
  pugi::xml_document document;
  add_element(document, "text", {{"name", std::string("\x02")}}, "\x03");
  pugi::xml_document read;
  EXPECT_TRUE(read.load_string(markup_text(document).c_str()));
}

}  // namespace
}  // namespace orchard::markup_test
