package dachshund.core.row;

import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.equipment.EquipmentValues;
import dachshund.core.equipment.PropertyLookup;
import dachshund.core.equipment.PropertySource;
import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.formula.InputHistory;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.SqlType;
import dachshund.core.row.RowMaker.CellSource;
import dachshund.core.row.RowMaker.Moment;
import dachshund.core.row.RowMaker.RowRefusal;
import dachshund.core.shift.Worked;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads the columns of a layout once, so that making a row only follows what was found. */
final class CellSources {

    private static final int NANOS_PER_TICK = 100;

    private final Layout layout;
    private final RowFacts facts;
    private final RowMaker.TagIndex index;

    CellSources(Layout layout, RowFacts facts, RowMaker.TagIndex index) {
        this.layout = layout;
        this.facts = facts;
        this.index = index;
    }

    /** Which tag value a column reads at a moment, with its last good one. */
    private interface Reading {
        TagValue now(Moment moment);

        TagValue lastGood(Moment moment);
    }

    /** A value that no quality hangs on. */
    @FunctionalInterface
    private interface Plain {
        Object at(Moment moment);
    }

    CellSource of(Column column) {
        return column.from().with(new ForColumn(column));
    }

    /** How each source of values is read for a column. */
    private final class ForColumn implements ColumnSource.Cases<CellSource> {

        private final Column column;

        ForColumn(Column column) {
            this.column = column;
        }

        @Override
        public CellSource of(ColumnSource.FromTag from) {
            return aspect(column, from.aspect(), tag(from.tag()), restDigits(from));
        }

        @Override
        public CellSource of(ColumnSource.FromTags from) {
            return new ValueCell(column, from.extraRows() ? nth(from.tags()) : firstGood(from.tags()), facts);
        }

        @Override
        public CellSource of(ColumnSource.FromProperty from) {
            String equipment = from.equipment().isEmpty() ? facts.equipmentId() : from.equipment();
            return aspect(
                    column,
                    from.aspect(),
                    property(facts.properties().property(equipment, from.property()), from.property()),
                    6);
        }

        @Override
        public CellSource of(ColumnSource.Constant from) {
            String text = from.nothing(column.type()) ? null : from.text();
            return new PlainCell(column, moment -> text, facts);
        }

        @Override
        public CellSource of(ColumnSource.FromRun from) {
            return new PlainCell(column, variable(from.variable()), facts);
        }

        @Override
        public CellSource of(ColumnSource.FromFormula from) {
            return new ValueCell(column, formula(column, from), facts);
        }

        @Override
        public CellSource of(ColumnSource.FromLine from) {
            return line(column, from.fact());
        }

        @Override
        public CellSource of(ColumnSource.Document from) {
            return new DocumentCell(
                    column, from.fields().stream().map(CellSources.this::of).toArray(CellSource[]::new), from.fields());
        }

        @Override
        public CellSource of(ColumnSource.AutoNumber from) {
            throw new IllegalStateException("An auto-number column is never written.");
        }
    }

    private CellSource aspect(Column column, Aspect aspect, Reading reading, int digits) {
        return switch (aspect) {
            case VALUE -> new ValueCell(column, reading, facts);
            case QUALITY ->
                new PlainCell(
                        column, moment -> quality(column, reading.now(moment).quality()), facts);
            case QUALITY_CLASS ->
                new PlainCell(column, moment -> grade(reading.now(moment).quality()), facts);
            case SOURCE_TIME -> new PlainCell(column, moment -> sourceTime(reading.now(moment)), facts);
            case SOURCE_TIME_REST -> new PlainCell(column, moment -> rest(reading.now(moment), digits), facts);
        };
    }

    private static Object quality(Column column, Quality quality) {
        return column.type().numeric() ? (Object) quality.code() : quality.sentence();
    }

    private static String grade(Quality quality) {
        String name = quality.grade().name();
        return name.charAt(0) + name.substring(1).toLowerCase(java.util.Locale.ROOT);
    }

    private static Instant sourceTime(TagValue value) {
        return value.arrived() ? value.sourceTime() : null;
    }

    private static Object rest(TagValue value, int digits) {
        return value.arrived()
                ? (long) (value.sourceTime().getNano() % (int) Math.pow(10, 9 - digits) / NANOS_PER_TICK)
                : null;
    }

    /** The fraction digits that the layout's own column of this source time holds. */
    private int restDigits(ColumnSource.FromTag tag) {
        return layout.columns().stream()
                .filter(column -> column.type().family() == SqlType.Family.TIMESTAMP)
                .filter(column -> column.from().equals(new ColumnSource.FromTag(tag.tag(), Aspect.SOURCE_TIME)))
                .findFirst()
                .map(column -> column.type().size())
                .orElse(6);
    }

    private Reading tag(TagRef tag) {
        int at = index.of(tag);
        return new Reading() {
            @Override
            public TagValue now(Moment moment) {
                return moment.now(at);
            }

            @Override
            public TagValue lastGood(Moment moment) {
                return moment.lastGood(at);
            }
        };
    }

    /** The tag of the row's own line; nothing where the column has fewer tags than there are rows. */
    private Reading nth(List<TagRef> tags) {
        int[] places = tags.stream().mapToInt(index::of).toArray();
        return new Reading() {
            @Override
            public TagValue now(Moment moment) {
                return moment.line() < places.length ? moment.now(places[moment.line()]) : TagValue.NONE;
            }

            @Override
            public TagValue lastGood(Moment moment) {
                return moment.line() < places.length ? moment.lastGood(places[moment.line()]) : TagValue.NONE;
            }
        };
    }

    private Reading firstGood(List<TagRef> tags) {
        int[] places = tags.stream().mapToInt(index::of).toArray();
        return new Reading() {
            @Override
            public TagValue now(Moment moment) {
                for (int place : places) {
                    if (moment.now(place).quality().isGood()) {
                        return moment.now(place);
                    }
                }
                return places.length == 0 ? TagValue.NONE : moment.now(places[0]);
            }

            @Override
            public TagValue lastGood(Moment moment) {
                TagValue latest = TagValue.NONE;
                for (int place : places) {
                    TagValue good = moment.lastGood(place);
                    latest = good.receiveTime().isAfter(latest.receiveTime()) ? good : latest;
                }
                return latest;
            }
        };
    }

    private Reading property(Optional<PropertyLookup.Mapped> mapped, String name) {
        if (mapped.isEmpty()) {
            return always(Quality.bad(0, "the equipment has no " + name));
        }
        PropertySource from = mapped.get().from();
        if (from instanceof PropertySource.FromTag tag) {
            Reading whole = tag(tag.tag());
            boolean asItIs = tag.formula().isEmpty()
                    && (mapped.get().unit().isEmpty()
                            || mapped.get().unit().equals(mapped.get().design().unit()));
            PropertySource.FromTag withUnit =
                    new PropertySource.FromTag(tag.tag(), mapped.get().unit(), tag.formula());
            return asItIs
                    ? whole
                    : new Reading() {
                        @Override
                        public TagValue now(Moment moment) {
                            return EquipmentValues.value(
                                    mapped.get().design(),
                                    withUnit,
                                    any -> Optional.empty(),
                                    any -> whole.now(moment),
                                    moment.recordTime());
                        }

                        @Override
                        public TagValue lastGood(Moment moment) {
                            return EquipmentValues.value(
                                    mapped.get().design(),
                                    withUnit,
                                    any -> Optional.empty(),
                                    any -> whole.lastGood(moment),
                                    moment.recordTime());
                        }
                    };
        }
        TagValue constant = EquipmentValues.value(
                mapped.get().design(),
                from,
                any -> Optional.empty(),
                any -> TagValue.NONE,
                Instant.EPOCH.plusSeconds(1));
        return always(constant);
    }

    private static Reading always(Quality quality) {
        return always(new TagValue(Optional.empty(), quality, Instant.EPOCH, Instant.EPOCH));
    }

    private static Reading always(TagValue value) {
        return new Reading() {
            @Override
            public TagValue now(Moment moment) {
                return value;
            }

            @Override
            public TagValue lastGood(Moment moment) {
                return value;
            }
        };
    }

    private Reading formula(Column column, ColumnSource.FromFormula from) {
        Map<String, Integer> places = new HashMap<>();
        from.inputs().forEach((name, tag) -> places.put(name, index.of(tag)));
        DataKind kind = kind(column.type());
        Formula formula;
        try {
            formula = Formula.read(from.text(), from.inputs().keySet());
        } catch (FormulaProblem problem) {
            return always(Quality.bad(0, problem.getMessage()));
        }
        return new Reading() {
            @Override
            public TagValue now(Moment moment) {
                return evaluate(moment, moment.values().now());
            }

            @Override
            public TagValue lastGood(Moment moment) {
                return evaluate(moment, moment.values().lastGood());
            }

            private TagValue evaluate(Moment moment, TagValue[] values) {
                Map<String, InputHistory> known = new HashMap<>();
                places.forEach((name, place) -> {
                    InputHistory history = new InputHistory(Duration.ZERO);
                    history.take(values[place], moment.recordTime());
                    known.put(name, history);
                });
                return formula.evaluate(known, kind, moment.recordTime());
            }
        };
    }

    private static DataKind kind(SqlType type) {
        return type.numeric()
                ? DataKind.NUMBER
                : switch (type.family()) {
                    case BOOLEAN -> DataKind.BOOLEAN;
                    case TIMESTAMP, DATE, TIME -> DataKind.TIME;
                    default -> DataKind.TEXT;
                };
    }

    private CellSource line(Column column, ColumnSource.LineFact fact) {
        List<Line> lines = layout.lines();
        Reading own = nth(lines.stream().map(Line::tag).toList());
        return switch (fact) {
            case NAME ->
                new PlainCell(column, moment -> lines.get(moment.line()).name(), facts);
            case EQUIPMENT ->
                new PlainCell(
                        column, moment -> emptyToNull(lines.get(moment.line()).equipment()), facts);
            case UNIT ->
                new PlainCell(
                        column, moment -> emptyToNull(lines.get(moment.line()).unit()), facts);
            case VALUE -> new ValueCell(column, own, facts);
            case NUMBER -> new ValueCell(column, only(own, true), facts);
            case TEXT -> new ValueCell(column, only(own, false), facts);
            case QUALITY -> aspect(column, Aspect.QUALITY, own, 6);
            case QUALITY_CLASS -> aspect(column, Aspect.QUALITY_CLASS, own, 6);
            case SOURCE_TIME -> aspect(column, Aspect.SOURCE_TIME, own, 6);
        };
    }

    private static Reading only(Reading reading, boolean numbers) {
        return new Reading() {
            @Override
            public TagValue now(Moment moment) {
                return keep(reading.now(moment));
            }

            @Override
            public TagValue lastGood(Moment moment) {
                return keep(reading.lastGood(moment));
            }

            private TagValue keep(TagValue value) {
                boolean number = value.value().orElse(null) instanceof Number
                        || value.value().orElse(null) instanceof Boolean;
                return number == numbers
                        ? value
                        : new TagValue(Optional.empty(), value.quality(), value.sourceTime(), value.receiveTime());
            }
        };
    }

    private static String emptyToNull(String text) {
        return text.isEmpty() ? null : text;
    }

    private Plain variable(ColumnSource.Variable variable) {
        return switch (variable) {
            case RECORD_TIME -> Moment::recordTime;
            case EPOCH_TIME -> moment -> moment.recordTime().toEpochMilli();
            case SEQUENCE -> moment -> moment.id().sequence();
            case ROW_ID -> moment -> moment.id().toString();
            case RECORDER -> moment -> facts.recorder();
            case SITE -> moment -> emptyToNull(facts.site());
            case EQUIPMENT -> moment -> emptyToNull(facts.equipmentName());
            case SHIFT ->
                moment -> facts.shift(moment.recordTime()).map(Worked::shift).orElse(null);
            case SHIFT_DATE ->
                moment -> facts.shift(moment.recordTime()).map(Worked::date).orElse(null);
            case RUNNING_SHIFT ->
                moment -> facts.shifts()
                        .at(moment.recordTime(), facts.zone())
                        .map(Worked::shift)
                        .orElse(null);
            case RUNNING_SHIFT_DATE ->
                moment -> facts.shifts()
                        .at(moment.recordTime(), facts.zone())
                        .map(Worked::date)
                        .orElse(null);
        };
    }

    private static Object fitted(Column column, Object raw, RowFacts facts) throws RowRefusal {
        if (raw == null) {
            if (column.required()) {
                throw new RowRefusal("Column " + column.name() + " is required and has no value.");
            }
            return null;
        }
        try {
            Object treated = raw;
            if (!column.treatment().none()) {
                treated = column.treatment().needsNumber() ? column.treatment().number(Conversion.number(raw)) : raw;
                String word = column.treatment().words().get(Conversion.code(treated));
                treated = word == null ? treated : word;
            }
            return Conversion.convert(treated, column.type(), facts.zone());
        } catch (Conversion.DoesNotFit problem) {
            throw new RowRefusal("The value for column " + column.name() + " " + problem.getMessage() + ".");
        }
    }

    /** The value of a tag, with what the column says of bad quality. */
    private record ValueCell(Column column, Reading reading, RowFacts facts) implements CellSource {
        @Override
        public Object cell(Moment moment) throws RowRefusal {
            return fitted(column, RowMaker.unlessBad(column, reading.now(moment), reading.lastGood(moment)), facts);
        }

        @Override
        public Object raw(Moment moment) {
            return reading.now(moment).value().orElse(null);
        }
    }

    private record PlainCell(Column column, Plain plain, RowFacts facts) implements CellSource {
        @Override
        public Object cell(Moment moment) throws RowRefusal {
            return fitted(column, plain.at(moment), facts);
        }

        @Override
        public Object raw(Moment moment) {
            return plain.at(moment);
        }
    }

    private record DocumentCell(Column column, CellSource[] cells, List<Column> fields) implements CellSource {
        @Override
        public Object cell(Moment moment) throws RowRefusal {
            Object[] values = new Object[cells.length];
            for (int i = 0; i < cells.length; i++) {
                values[i] = cells[i].cell(moment);
            }
            return RowJson.write(fields, values);
        }

        @Override
        public Object raw(Moment moment) {
            ObjectNode document = JsonNodeFactory.instance.objectNode();
            for (int i = 0; i < cells.length; i++) {
                Object raw = cells[i].raw(moment);
                if (raw != null) {
                    document.put(fields.get(i).name(), Conversion.plain(raw));
                }
            }
            return RowJson.text(document);
        }
    }
}
