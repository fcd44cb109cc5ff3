package dachshund.core.definition;

import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertyLookup;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.row.RowFacts;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.shift.ShiftOfRow;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.time.ZoneId;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** What recorders need to know of a set of definitions: equipment, tags and shifts. Immutable. */
public final class Plant implements PropertyLookup {

    private final String site;
    private final ZoneId zone;
    private final Map<String, Definition> definitions = new HashMap<>();
    private final Map<TagRef, TagInfo> tags = new HashMap<>();

    /**
     * @param site name of the site
     * @param zone plant time
     */
    public Plant(String site, ZoneId zone, Collection<? extends Definition> all) {
        this.site = site;
        this.zone = zone;
        for (Definition definition : all) {
            definitions.put(definition.id(), definition);
            if (definition instanceof SourceDefinition source) {
                source.tags().forEach(tag -> tags.put(new TagRef(source.id(), tag.address()), tag));
            }
        }
    }

    @Override
    public Optional<Mapped> property(String equipment, String property) {
        if (!(definitions.get(equipment) instanceof EquipmentDefinition piece)
                || !(definitions.get(piece.equipmentClass()) instanceof EquipmentClassDefinition type)) {
            return Optional.empty();
        }
        Optional<PropertyDesign> design = type.property(property);
        return design.flatMap(each -> piece.property(each.name()))
                .map(from -> new Mapped(design.get(), from, unit(from)));
    }

    private String unit(PropertySource from) {
        if (!(from instanceof PropertySource.FromTag tag)) {
            return "";
        }
        return tag.unit().isEmpty() ? tag(tag.tag()).map(TagInfo::unit).orElse("") : tag.unit();
    }

    /** What is known of a tag, empty where its source does not have it. */
    public Optional<TagInfo> tag(TagRef tag) {
        return Optional.ofNullable(tags.get(tag));
    }

    public Optional<Range> range(TagRef tag) {
        return tag(tag).flatMap(TagInfo::range);
    }

    public ShiftCalendar shifts() {
        return definitions.get(ShiftCalendarDefinition.ID) instanceof ShiftCalendarDefinition calendar
                ? calendar.calendar()
                : ShiftCalendar.NONE;
    }

    /** The destination of that name, whatever its letters' case. */
    public Optional<DestinationDefinition> destination(String name) {
        return definitions.values().stream()
                .filter(DestinationDefinition.class::isInstance)
                .map(DestinationDefinition.class::cast)
                .filter(each -> each.name().equalsIgnoreCase(name))
                .findFirst();
    }

    /** All definitions of a kind. */
    public <D extends Definition> List<D> all(Class<D> type) {
        return definitions.values().stream()
                .filter(type::isInstance)
                .map(type::cast)
                .toList();
    }

    public ZoneId zone() {
        return zone;
    }

    /** Empty where there is no such piece of equipment. */
    public String equipmentName(String id) {
        return definitions.get(id) instanceof EquipmentDefinition piece ? piece.name() : "";
    }

    /** What the rows of a recorder say beside its tags. */
    public RowFacts facts(RecorderDefinition recorder) {
        String equipment = equipmentName(recorder.equipment());
        return new RowFacts(
                recorder.name(), site, recorder.equipment(), equipment, shifts(), belongs(recorder), zone, this);
    }

    private static ShiftOfRow belongs(RecorderDefinition recorder) {
        long ends = recorder.whens().stream().filter(When::atShiftEnd).count();
        return ends == 0 ? ShiftOfRow.RUNNING : ends == recorder.whens().size() ? ShiftOfRow.ENDED : ShiftOfRow.ENDING;
    }

    /** Everything beside the recorder itself that decides what its rows are; a recorder starts anew when this changes. */
    public Object around(RecorderDefinition recorder) {
        Map<String, Object> around = new HashMap<>();
        around.put("name", facts(recorder).equipmentName());
        if (recorder.wheres().stream().anyMatch(where -> !where.named().isEmpty())) {
            around.put(
                    "destinations",
                    definitions.values().stream()
                            .filter(DestinationDefinition.class::isInstance)
                            .collect(Collectors.toMap(Definition::id, Definition::name)));
        }
        if (usesShifts(recorder)) {
            around.put("shifts", shifts());
        }
        for (Column column : recorder.layout().columnsAndFields()) {
            if (column.from() instanceof ColumnSource.FromProperty from) {
                String equipment = from.equipment().isEmpty() ? recorder.equipment() : from.equipment();
                around.put(equipment + " " + from.property(), property(equipment, from.property()));
            }
        }
        if (recorder.whens().stream().anyMatch(When::byRange)) {
            Map<TagRef, Optional<Range>> ranges = new HashMap<>();
            recorder.layout().tags().forEach(tag -> ranges.put(tag, range(tag)));
            around.put("ranges", ranges);
        }
        return around;
    }

    private static boolean usesShifts(RecorderDefinition recorder) {
        boolean inColumns = recorder.layout().columnsAndFields().stream()
                .anyMatch(column -> column.from() instanceof ColumnSource.FromRun run
                        && run.variable().words().contains("shift"));
        return inColumns
                || recorder.whens().stream().anyMatch(When::atShiftEnd)
                || recorder.wheres().stream()
                        .anyMatch(where -> (where.table() + where.database() + where.named()).contains("{shift"));
    }
}
