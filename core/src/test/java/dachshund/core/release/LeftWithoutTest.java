package dachshund.core.release;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** What is released takes nothing unseen from what stays as it is. */
class LeftWithoutTest {

    private static final TagRef OUTLET = new TagRef("a0000001", "out");
    private static final SourceDefinition DRYER = new SourceDefinition(
            "a0000001",
            "Dryer",
            "",
            "opcua",
            Map.of(),
            Duration.ofSeconds(1),
            List.of(new TagInfo("out", "Dryer", "Outlet", DataKind.NUMBER, "°C", "", false)));
    private static final EquipmentClassDefinition MILL = new EquipmentClassDefinition(
            "b0000001", "Mill", "", List.of(new PropertyDesign("outlet", DataKind.NUMBER, "°C", false, "")));
    private static final EquipmentDefinition MILL_1 = new EquipmentDefinition(
            "b0000002", "Mill 1", "", MILL.id(), "", Map.of("outlet", PropertySource.FromTag.of(OUTLET)));
    private static final RecorderDefinition BY_TAG =
            recorder("c0000001", "By tag", "", new ColumnSource.FromTag(OUTLET, ColumnSource.Aspect.VALUE));
    private static final RecorderDefinition BY_PROPERTY = recorder(
            "c0000002",
            "By property",
            MILL_1.id(),
            new ColumnSource.FromProperty("", "outlet", ColumnSource.Aspect.VALUE));
    private static final List<Definition> ALL = List.of(DRYER, MILL, MILL_1, BY_TAG, BY_PROPERTY);

    private static RecorderDefinition recorder(String id, String name, String equipment, ColumnSource from) {
        return new RecorderDefinition(
                        id,
                        name,
                        "",
                        List.of(new When.Every(Duration.ofSeconds(1))),
                        Layout.proposed().plus(Column.of("outlet", SqlType.DOUBLE, from)),
                        List.of())
                .withEquipment(equipment);
    }

    /** By thing, "who: what". */
    private static Map<String, List<String>> after(Definition... changed) {
        List<Definition> is = ALL.stream()
                .map(each -> Stream.of(changed)
                        .filter(other -> other.id().equals(each.id()))
                        .findFirst()
                        .orElse(each))
                .toList();
        Map<String, List<LeftWithout.Left>> left = LeftWithout.byThing(ALL, is, plant(ALL), plant(is));
        return left.entrySet().stream()
                .collect(java.util.stream.Collectors.toMap(Map.Entry::getKey, each -> each.getValue().stream()
                        .map(one -> one.user().name() + ": " + one.what())
                        .toList()));
    }

    private static Plant plant(List<Definition> all) {
        return new Plant("Quillmoor", ZoneOffset.UTC, all);
    }

    @Test
    void whoStillUsesATagThatGoesIsToldAtItsSource() {
        Map<String, List<String>> left = after(DRYER.withTags(List.of()));
        assertThat(left).containsOnlyKeys(DRYER.id());
        assertThat(left.get(DRYER.id())).containsExactlyInAnyOrder("By tag: the tag Outlet", "Mill 1: the tag Outlet");
    }

    @Test
    void whoStillUsesAPropertyThatGoesIsToldAtItsEquipmentOrItsClass() {
        assertThat(after(MILL_1.withProperties(Map.of())))
                .isEqualTo(Map.of(MILL_1.id(), List.of("By property: the property outlet")));
        assertThat(after(new EquipmentClassDefinition(MILL.id(), MILL.name(), "", List.of())))
                .isEqualTo(Map.of(MILL.id(), List.of("By property: the property outlet")));
    }

    @Test
    void whatDoesWithoutItInTheSameReleaseIsLeftWithoutNothing() {
        assertThat(after(
                        DRYER.withTags(List.of()),
                        MILL_1.withProperties(Map.of("outlet", new PropertySource.Constant("0"))),
                        BY_TAG.withLayout(Layout.proposed())))
                .isEmpty();
        assertThat(after(DRYER.withWriting(true))).isEmpty();
    }
}
