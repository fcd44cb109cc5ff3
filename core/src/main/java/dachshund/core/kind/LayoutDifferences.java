package dachshund.core.kind;

import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Shape;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** What differs between two layouts of a recorder, in sentences. */
final class LayoutDifferences {

    private final Named named;

    LayoutDifferences(Named named) {
        this.named = named;
    }

    /** Shape, lines, key and indexes. */
    static void rows(Sentences sentences, Layout was, Layout is) {
        sentences.compare("Shape", was.shape().words(), is.shape().words());
        lines(sentences, was, is);
        sentences.compare("Key", String.join(", ", was.key()), String.join(", ", is.key()));
        sentences.compare("Indexes", indexes(was), indexes(is));
    }

    private static void lines(Sentences sentences, Layout was, Layout is) {
        Set<TagRef> a = was.lines().stream().map(Line::tag).collect(Collectors.toSet());
        Set<TagRef> b = is.lines().stream().map(Line::tag).collect(Collectors.toSet());
        List<String> more = is.lines().stream()
                .filter(line -> !a.contains(line.tag()))
                .map(Line::name)
                .toList();
        List<String> fewer = was.lines().stream()
                .filter(line -> !b.contains(line.tag()))
                .map(Line::name)
                .toList();
        if (!more.isEmpty()) {
            sentences.add("Writes rows of " + Sentences.count(more.size(), "more tag") + ": " + String.join(", ", more)
                    + ".");
        }
        if (!fewer.isEmpty()) {
            sentences.add("Writes no more rows of " + String.join(", ", fewer) + "; the rows that are there stay.");
        }
        if (!was.lines().stream()
                .filter(line -> b.contains(line.tag()))
                .toList()
                .equals(is.lines().stream()
                        .filter(line -> a.contains(line.tag()))
                        .toList())) {
            sentences.add("Names in the rows change; the rows that are there keep theirs.");
        }
        if (was.changedLinesOnly() != is.changedLinesOnly() && is.shape() == Shape.ROW_PER_TAG) {
            sentences.add(
                    is.changedLinesOnly()
                            ? "A change writes the rows of the changed tags alone."
                            : "A change writes the rows of all tags.");
        }
    }

    private static String indexes(Layout layout) {
        return layout.indexes().stream()
                .map(index -> "(" + String.join(", ", index) + ")")
                .collect(Collectors.joining(", "));
    }

    void columns(Sentences sentences, Layout was, Layout is) {
        // A renamed column keeps its source, so a pair with the same source and another name is a rename.
        List<Column> gone = new ArrayList<>(was.columns());
        List<Column> come = new ArrayList<>(is.columns());
        for (Column b : is.columns()) {
            Optional<Column> a = gone.stream()
                    .filter(column -> column.name().equalsIgnoreCase(b.name()))
                    .findFirst();
            a.ifPresent(column -> {
                gone.remove(column);
                come.remove(b);
                sentences.addAll(columnChange(column, b));
            });
        }
        for (Column b : List.copyOf(come)) {
            Optional<Column> a = gone.stream()
                    .filter(column -> column.from().equals(b.from()))
                    .findFirst();
            a.ifPresent(column -> {
                gone.remove(column);
                come.remove(b);
                sentences.add("Writes " + source(b) + " to column " + b.name() + " instead of " + column.name()
                        + "; the old column and its values stay in the table.");
                sentences.addAll(columnChange(column.named(b.name()), b));
            });
        }
        come.forEach(column -> sentences.add(
                "New column " + column.name() + " (" + column.type().words() + ") from " + source(column) + "."));
        gone.forEach(column ->
                sentences.add("No longer writes column " + column.name() + "; it and its values stay in the table."));
        List<String> orderBefore = names(was, is);
        List<String> orderAfter = names(is, was);
        if (gone.isEmpty()
                && come.isEmpty()
                && orderBefore.size() == is.columns().size()
                && !orderBefore.equals(orderAfter)) {
            sentences.add("The order of the columns changes; a table that is there keeps its own order.");
        }
    }

    private static List<String> names(Layout of, Layout alsoIn) {
        return of.columns().stream()
                .map(Column::name)
                .filter(name -> alsoIn.columns().stream()
                        .anyMatch(column -> column.name().equals(name)))
                .toList();
    }

    private List<String> columnChange(Column was, Column is) {
        List<String> sentences = new ArrayList<>();
        if (!was.name().equals(is.name())) {
            sentences.add("Column " + was.name() + " is now spelt " + is.name() + ".");
        }
        if (!was.type().equals(is.type())) {
            sentences.add("Type of column " + is.name() + " from " + was.type().words() + " to "
                    + is.type().words() + "; a table that is there keeps its own type.");
        }
        if (!was.from().equals(is.from())) {
            sentences.add("Column " + is.name() + " from " + source(is) + " instead of " + source(was) + ".");
        }
        if (!was.heading().equals(is.heading())) {
            sentences.add("Column " + is.name() + " is headed " + is.head() + " in files, instead of " + was.head()
                    + "; a new file begins.");
        }
        if (was.required() != is.required()) {
            sentences.add("Column " + is.name() + (is.required() ? " is now required." : " is no longer required."));
        }
        if (!was.treatment().equals(is.treatment())) {
            sentences.add("Column " + is.name() + ": "
                    + (is.treatment().none()
                            ? "the value as it is"
                            : is.treatment().sentence()) + " instead of "
                    + (was.treatment().none()
                            ? "the value as it is"
                            : was.treatment().sentence()) + ".");
        }
        if (was.badQuality() != is.badQuality()) {
            sentences.add("Column " + is.name() + " with bad quality: "
                    + is.badQuality().words() + " instead of "
                    + was.badQuality().words() + ".");
        }
        return sentences;
    }

    private String source(Column column) {
        return column.from().sentence(new ColumnSource.Names() {
            @Override
            public String tag(TagRef tag) {
                return named.tag(tag);
            }

            @Override
            public String whose(String equipment) {
                return " of " + (equipment.isEmpty() ? "its equipment" : named.name(equipment));
            }
        });
    }

    static String columnNames(Layout layout) {
        List<String> names = layout.columns().stream().map(Column::name).toList();
        return names.size() <= 8
                ? String.join(", ", names)
                : String.join(", ", names.subList(0, 8)) + " and " + (names.size() - 8) + " more";
    }
}
