package dachshund.core.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.ShiftCalendarDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.Place;
import dachshund.core.destination.WriteMode;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Shape;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.time.DayOfWeek;
import java.time.format.TextStyle;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Tells two states of the definitions apart, in sentences that a person reads before releasing. */
public final class Differences {

    private final Map<String, Definition> before;
    private final Map<String, Definition> after;

    private Differences(Map<String, Definition> before, Map<String, Definition> after) {
        this.before = before;
        this.after = after;
    }

    /** What changes from one set of definitions to another; things that are equal do not appear. */
    public static List<Difference> between(List<Definition> before, List<Definition> after) {
        return new Differences(byId(before), byId(after)).all();
    }

    private static Map<String, Definition> byId(List<Definition> definitions) {
        return definitions.stream().collect(Collectors.toMap(Definition::id, Function.identity()));
    }

    private List<Difference> all() {
        Set<String> ids = new TreeSet<>(before.keySet());
        ids.addAll(after.keySet());
        List<Difference> differences = new ArrayList<>();
        for (String id : ids) {
            Definition was = before.get(id);
            Definition is = after.get(id);
            if (was == null) {
                differences.add(new Difference(Difference.Change.NEW, is, introduced(is)));
            } else if (is == null) {
                differences.add(new Difference(Difference.Change.REMOVED, was, removed(was)));
            } else if (!was.equals(is)) {
                differences.add(new Difference(Difference.Change.CHANGED, is, changed(was, is)));
            }
        }
        differences.sort(
                java.util.Comparator.comparing((Difference d) -> d.thing().kind())
                        .thenComparing(d -> d.thing().name()));
        return differences;
    }

    private List<String> introduced(Definition thing) {
        if (thing instanceof SourceDefinition source) {
            return List.of("Connects to " + address(source.settings()) + " and takes "
                    + count(source.tags().size(), "tag") + " every " + PeriodText.write(source.rate()) + ".");
        }
        if (thing instanceof DestinationDefinition destination) {
            return List.of("Rows may go to " + address(destination.settings()) + ".");
        }
        if (thing instanceof EquipmentClassDefinition type) {
            return List.of("Equipment of this class has "
                    + count(type.properties().size(), "property").replace("propertys", "properties") + ": "
                    + type.properties().stream().map(PropertyDesign::name).collect(Collectors.joining(", ")) + ".");
        }
        if (thing instanceof EquipmentDefinition equipment) {
            return List.of("A " + name(equipment.equipmentClass()) + "; "
                    + equipment.properties().size() + " of its properties have a value.");
        }
        if (thing instanceof ShiftCalendarDefinition calendar) {
            return List.of("Shifts: " + shifts(calendar.calendar()) + ".");
        }
        RecorderDefinition recorder = (RecorderDefinition) thing;
        List<String> sentences = new ArrayList<>();
        sentences.add("Writes " + whens(recorder) + ", "
                + count(recorder.layout().columns().size(), "column") + ": " + columnNames(recorder.layout()) + ".");
        recorder.gate().ifPresent(gate -> sentences.add("Gate: only while " + gate.text() + "."));
        recorder.follows().ifPresent(follows -> sentences.add("Follows " + name(follows.original()) + "."));
        recorder.wheres()
                .forEach(where -> sentences.add("Writes to " + place(where) + "; " + permissions(where) + "."));
        return sentences;
    }

    private List<String> removed(Definition thing) {
        if (thing instanceof RecorderDefinition recorder) {
            return List.of("Stops writing "
                    + recorder.wheres().stream().map(this::place).collect(Collectors.joining(" and "))
                    + ". The rows that are there stay, and rows still held are sent.");
        }
        return List.of(
                switch (thing.kind()) {
                    case SOURCE -> "Its tags have no values any more.";
                    case SHIFT_CALENDAR -> "There are no shifts any more.";
                    case EQUIPMENT_CLASS, EQUIPMENT -> "Tags and records stay as they are.";
                    default -> "Nothing is written there any more.";
                });
    }

    private List<String> changed(Definition was, Definition is) {
        List<String> sentences = new ArrayList<>();
        compare(sentences, "Name", was.name(), is.name());
        compare(sentences, "Description", was.description(), is.description());
        if (was instanceof SourceDefinition a && is instanceof SourceDefinition b) {
            compare(sentences, "Kind", a.link(), b.link());
            settings(sentences, a.settings(), b.settings());
            compare(sentences, "Rate", PeriodText.write(a.rate()), PeriodText.write(b.rate()));
            compare(sentences, "Folder", a.folder(), b.folder());
            compare(sentences, "Labels", String.join(", ", a.labels()), String.join(", ", b.labels()));
            if (a.writing() != b.writing()) {
                sentences.add(
                        b.writing()
                                ? "People with the permission may write its tags from now on."
                                : "Its tags can no longer be written.");
            }
            tags(sentences, a, b);
        } else if (was instanceof EquipmentClassDefinition a && is instanceof EquipmentClassDefinition b) {
            equipmentClass(sentences, a, b);
        } else if (was instanceof EquipmentDefinition a && is instanceof EquipmentDefinition b) {
            compare(sentences, "Class", name(a.equipmentClass()), name(b.equipmentClass()));
            compare(sentences, "Location", a.location(), b.location());
            equipment(sentences, a, b);
        } else if (was instanceof ShiftCalendarDefinition a && is instanceof ShiftCalendarDefinition b) {
            calendar(sentences, a.calendar(), b.calendar());
        } else if (was instanceof DestinationDefinition a && is instanceof DestinationDefinition b) {
            compare(sentences, "Kind", a.store(), b.store());
            settings(sentences, a.settings(), b.settings());
        } else if (was instanceof RecorderDefinition a && is instanceof RecorderDefinition b) {
            compare(
                    sentences,
                    "Equipment",
                    a.equipment().isEmpty() ? "" : name(a.equipment()),
                    b.equipment().isEmpty() ? "" : name(b.equipment()));
            compare(sentences, "When", whens(a), whens(b));
            if (whens(a).equals(whens(b)) && !a.whens().equals(b.whens())) {
                sentences.add("The tags that its When looks at change.");
            }
            compare(
                    sentences,
                    "Gate",
                    a.gate().map(Condition::text).orElse(""),
                    b.gate().map(Condition::text).orElse(""));
            if (a.gate().isPresent()
                    && b.gate().isPresent()
                    && a.gate().get().text().equals(b.gate().get().text())
                    && !a.gate().equals(b.gate())) {
                sentences.add("The tags that its gate looks at change.");
            }
            compare(
                    sentences,
                    "Shape",
                    a.layout().shape().words(),
                    b.layout().shape().words());
            lines(sentences, a.layout(), b.layout());
            compare(
                    sentences,
                    "Key",
                    String.join(", ", a.layout().key()),
                    String.join(", ", b.layout().key()));
            compare(sentences, "Indexes", indexes(a.layout()), indexes(b.layout()));
            follows(sentences, a, b);
            columns(sentences, a.layout(), b.layout());
            wheres(sentences, a, b);
        }
        return sentences;
    }

    private static void calendar(List<String> sentences, ShiftCalendar was, ShiftCalendar is) {
        compare(sentences, "Shifts", shifts(was), shifts(is));
        compare(sentences, "Holidays", holidays(was), holidays(is));
        if (was.byBeginning() != is.byBeginning()) {
            sentences.add(
                    "A shift over midnight now belongs to the day it " + (is.byBeginning() ? "begins" : "ends") + ".");
        }
    }

    private static String shifts(ShiftCalendar calendar) {
        return calendar.shifts().stream()
                .map(shift -> shift.name() + " " + shift.start() + " to " + shift.end()
                        + (shift.days().size() == 7 ? "" : " on " + days(shift.days())))
                .collect(Collectors.joining(", "));
    }

    private static String days(Set<DayOfWeek> days) {
        return new TreeSet<>(days)
                .stream()
                        .map(day -> day.getDisplayName(TextStyle.SHORT, Locale.UK))
                        .collect(Collectors.joining(" "));
    }

    private static String holidays(ShiftCalendar calendar) {
        return calendar.holidays().stream()
                .map(holiday -> (holiday.date() + " " + holiday.name()).strip())
                .collect(Collectors.joining(", "));
    }

    private static void lines(List<String> sentences, Layout was, Layout is) {
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
            sentences.add("Writes rows of " + count(more.size(), "more tag") + ": " + String.join(", ", more) + ".");
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

    private void follows(List<String> sentences, RecorderDefinition was, RecorderDefinition is) {
        if (!ofItsOwn(was).equals(ofItsOwn(is))) {
            sentences.add(
                    is.follows().isEmpty()
                            ? "No longer follows " + name(was.follows().get().original()) + "."
                            : was.follows().isEmpty()
                                    ? "Follows " + name(is.follows().get().original()) + "."
                                    : "What it has of its own in the line-up changes.");
        }
    }

    /** What a line has of its own; what its original made it stands in the rest of the difference. */
    private static Optional<Follows> ofItsOwn(RecorderDefinition recorder) {
        return recorder.follows().map(follows -> follows.withMade(Optional.empty()));
    }

    private static void equipmentClass(
            List<String> sentences, EquipmentClassDefinition was, EquipmentClassDefinition is) {
        is.properties().forEach(property -> {
            Optional<PropertyDesign> before = was.property(property.name());
            if (before.isEmpty()) {
                sentences.add("New property " + property.name() + " ("
                        + property.kind().words() + (property.required() ? ", required" : "") + ").");
            } else if (!before.get().equals(property)) {
                sentences.add("Property " + property.name() + " is now a "
                        + property.kind().words() + (property.unit().isEmpty() ? "" : " in " + property.unit())
                        + (property.required() ? ", required." : ", optional."));
            }
        });
        was.properties().stream()
                .filter(property -> is.property(property.name()).isEmpty())
                .forEach(property -> sentences.add("No longer has the property " + property.name() + "."));
    }

    private static void equipment(List<String> sentences, EquipmentDefinition was, EquipmentDefinition is) {
        Set<String> names = new TreeSet<>(was.properties().keySet());
        names.addAll(is.properties().keySet());
        List<String> other = names.stream()
                .filter(name -> !was.property(name).equals(is.property(name)))
                .toList();
        if (!other.isEmpty()) {
            sentences.add("Mapped anew: " + String.join(", ", other) + ".");
        }
    }

    private static void settings(List<String> sentences, Map<String, String> was, Map<String, String> is) {
        Set<String> names = new TreeSet<>(was.keySet());
        names.addAll(is.keySet());
        for (String name : names) {
            String a = was.getOrDefault(name, "");
            String b = is.getOrDefault(name, "");
            if (a.startsWith("sealed:") || b.startsWith("sealed:")) {
                if (!a.equals(b)) {
                    sentences.add("Another " + name + ".");
                }
            } else {
                compare(sentences, Character.toUpperCase(name.charAt(0)) + name.substring(1), a, b);
            }
        }
    }

    private static void tags(List<String> sentences, SourceDefinition was, SourceDefinition is) {
        Set<String> a = was.tags().stream().map(TagInfo::address).collect(Collectors.toSet());
        Set<String> b = is.tags().stream().map(TagInfo::address).collect(Collectors.toSet());
        long more = b.stream().filter(address -> !a.contains(address)).count();
        long fewer = a.stream().filter(address -> !b.contains(address)).count();
        if (more > 0) {
            sentences.add("Takes " + count(more, "more tag") + ".");
        }
        if (fewer > 0) {
            sentences.add("Takes " + count(fewer, "tag") + " less.");
        }
        if (!was.tags().stream()
                .filter(tag -> b.contains(tag.address()))
                .toList()
                .equals(is.tags().stream()
                        .filter(tag -> a.contains(tag.address()))
                        .toList())) {
            sentences.add("The facts of some tags (unit, kind, description) are renewed.");
        }
    }

    private void columns(List<String> sentences, Layout was, Layout is) {
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

    private void wheres(List<String> sentences, RecorderDefinition was, RecorderDefinition is) {
        for (Where b : is.wheres()) {
            Optional<Where> a =
                    was.wheres().stream().filter(where -> samePlace(where, b)).findFirst();
            if (a.isEmpty()) {
                sentences.add("Writes to " + place(b) + "; " + permissions(b) + ".");
            } else if (!a.get().equals(b)) {
                sentences.add("For " + place(b) + ": " + permissions(b) + ".");
            }
        }
        for (Where a : was.wheres()) {
            if (is.wheres().stream().noneMatch(where -> samePlace(where, a))) {
                sentences.add("No longer writes to " + place(a) + "; the rows that are there stay.");
            }
        }
    }

    private static boolean samePlace(Where a, Where b) {
        return a.destination().equals(b.destination())
                && a.table().equals(b.table())
                && a.database().equals(b.database())
                && a.named().equals(b.named());
    }

    private String place(Where where) {
        boolean files = after.getOrDefault(where.destination(), before.get(where.destination()))
                        instanceof DestinationDefinition destination
                && destination.store().equals("folder");
        return (files ? "files " : "table ") + new Place(where.database(), where.table()).words() + " in "
                + (where.named().isEmpty() ? "" : "the destination named " + where.named() + ", else ")
                + name(where.destination());
    }

    private static String permissions(Where where) {
        String table = where.upkeep().mayMake() ? "may make the table" : "may not make the table";
        String columns = where.upkeep().mayAddColumns() ? "may add columns" : "may not add columns";
        String given =
                where.mode() instanceof WriteMode.Call call && !call.columns().isEmpty()
                        ? " with " + String.join(", ", call.arguments()) + " from " + String.join(", ", call.columns())
                        : "";
        return (where.mode() instanceof WriteMode.Insert ? "" : where.mode().words() + given + ", ") + table + ", "
                + columns
                + (where.mark() ? ", keeps a delivery mark" : "")
                + (where.standbyFor().isEmpty() ? "" : ", only while another destination is away");
    }

    private String tag(TagRef ref) {
        if (ref.isGap()) {
            return "no tag yet";
        }
        return after.getOrDefault(ref.source(), before.get(ref.source())) instanceof SourceDefinition source
                ? source.tags().stream()
                        .filter(info -> info.address().equals(ref.address()))
                        .findFirst()
                        .map(TagInfo::fullName)
                        .orElse(ref.address())
                : ref.address();
    }

    private String source(Column column) {
        ColumnSource from = column.from();
        if (from instanceof ColumnSource.FromTags tags) {
            return (tags.extraRows() ? "each of " : "the first good one of ")
                    + tags.tags().stream().map(this::tag).collect(Collectors.joining(", "));
        }
        if (from instanceof ColumnSource.FromFormula formula) {
            return "the formula " + formula.text();
        }
        if (from instanceof ColumnSource.FromProperty property) {
            return "the " + property.property() + " of "
                    + (property.equipment().isEmpty() ? "its equipment" : name(property.equipment()));
        }
        if (from instanceof ColumnSource.FromLine line) {
            return "the " + line.fact().words() + " of the row's tag";
        }
        if (from instanceof ColumnSource.Document document) {
            return "the fields " + document.fields().stream().map(Column::name).collect(Collectors.joining(", "));
        }
        if (from instanceof ColumnSource.FromTag tag) {
            String name = tag(tag.tag());
            return tag.aspect() == ColumnSource.Aspect.VALUE
                    ? name
                    : "the " + tag.aspect().words() + " of " + name;
        }
        if (from instanceof ColumnSource.Constant constant) {
            return "the constant \"" + constant.text() + "\"";
        }
        return from instanceof ColumnSource.FromRun run
                ? "the " + run.variable().words()
                : "the database's numbering";
    }

    private String name(String id) {
        Definition definition = after.getOrDefault(id, before.get(id));
        return definition == null ? "something that is not there (" + id + ")" : definition.name();
    }

    private static String whens(RecorderDefinition recorder) {
        return recorder.whens().stream().map(When::sentence).collect(Collectors.joining(" and "));
    }

    private static String columnNames(Layout layout) {
        List<String> names = layout.columns().stream().map(Column::name).toList();
        return names.size() <= 8
                ? String.join(", ", names)
                : String.join(", ", names.subList(0, 8)) + " and " + (names.size() - 8) + " more";
    }

    private static String address(Map<String, String> settings) {
        if (settings.containsKey("address")) {
            return settings.get("address");
        }
        return "database " + settings.getOrDefault("database", "") + " on " + settings.getOrDefault("host", "") + ":"
                + settings.getOrDefault("port", "");
    }

    private static String count(long n, String word) {
        return n + " " + word + (n == 1 ? "" : "s");
    }

    private static void compare(List<String> sentences, String what, String was, String is) {
        if (!was.equals(is)) {
            sentences.add(what + " from " + (was.isEmpty() ? "nothing" : was) + " to " + (is.isEmpty() ? "nothing" : is)
                    + ".");
        }
    }
}
