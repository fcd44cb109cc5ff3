package dachshund.core.equipment;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

class AlikeTest {

    private static final Instant T0 = Instant.parse("2026-11-25T06:00:00Z");

    private static List<Alike.Placed> folder(String path, String... names) {
        List<Alike.Placed> tags = new ArrayList<>();
        for (String name : names) {
            tags.add(new Alike.Placed(
                    new TagRef("a0000001", path + "/" + name),
                    new TagInfo(path + "/" + name, path, name, DataKind.NUMBER, "", "", false)));
        }
        return tags;
    }

    @Test
    void neighboursWithMostlyTheSameNamesAreAGroupAndGapsAreNamed() {
        List<Alike.Placed> tags = new ArrayList<>();
        tags.addAll(folder("Pelleting / PL1", "State", "Power", "Output", "Fines"));
        tags.addAll(folder("Pelleting / PL2", "State", "Power", "Output", "Fines"));
        tags.addAll(folder("Pelleting / PL3", "State", "Power", "Output"));
        tags.addAll(folder("Drying / Dryer", "Inlet", "Outlet"));
        tags.addAll(folder("Drying / Burner", "Demand", "Fuel"));
        tags.addAll(folder("", "Site"));
        List<Alike.Group> groups = Alike.groups(tags);
        assertThat(groups).singleElement().satisfies(group -> {
            assertThat(group.machines()).extracting(Alike.Machine::name).containsExactly("PL1", "PL2", "PL3");
            assertThat(group.properties()).containsExactly("State", "Power", "Output", "Fines");
            assertThat(group.missing(group.machines().get(2))).containsExactly("Fines");
            assertThat(group.proposedName()).isEqualTo("Pelleting machine");
            assertThat(Alike.groups(Stream.of("A", "B")
                                    .flatMap(name -> folder("Yard / silos / " + name, "Level", "Weight").stream())
                                    .toList())
                            .get(0)
                            .proposedName())
                    .isEqualTo("silo");
            assertThat(group.without(Set.of(new TagRef("a0000001", "Pelleting / PL1/State")))
                            .machines())
                    .hasSize(2);
        });
    }

    @Test
    void tooFewSharedNamesAreNotAlike() {
        List<Alike.Placed> tags = new ArrayList<>(folder("Area / A", "One", "Two", "Three"));
        tags.addAll(folder("Area / B", "One", "Two", "Four", "Five"));
        assertThat(Alike.shared(Set.of("One", "Two", "Three"), Set.of("One", "Two", "Four", "Five")))
                .isEqualTo(0.4);
        assertThat(Alike.groups(tags)).isEmpty();
    }

    @Test
    void propertiesAreConvertedComputedOrConstant() {
        PropertyDesign power = new PropertyDesign("Power", DataKind.NUMBER, "MW", true, "");
        TagInfo info = new TagInfo("p", "", "Power", DataKind.NUMBER, "kW", "", false);
        TagRef ref = new TagRef("a0000001", "p");
        PropertySource plain = PropertySource.FromTag.of(ref);
        assertThat(value(power, plain, info, TagValue.good(2500.0, T0)).value()).contains(2.5);
        assertThat(value(power, new PropertySource.FromTag(ref, "", "x * 2"), info, TagValue.good(3.0, T0))
                        .value())
                .contains(6.0);
        assertThat(value(power, new PropertySource.FromTag(ref, "kW", "x * 2"), info, TagValue.good(500.0, T0))
                        .value())
                .contains(1.0);
        assertThat(value(power, new PropertySource.Constant("0.4"), info, TagValue.NONE)
                        .value())
                .contains(0.4);
        assertThat(value(power, plain, info, new TagValue(Optional.of(1.0), Quality.AWAY, T0, T0))
                        .quality()
                        .isBad())
                .isTrue();
        TagInfo pressure = new TagInfo("p", "", "Power", DataKind.NUMBER, "kPa", "", false);
        TagValue clash = value(power, plain, pressure, TagValue.good(3.0, T0));
        assertThat(clash.value()).as("a pressure is no power").isEmpty();
        assertThat(clash.quality().words()).isEqualTo("the tag is in kPa, the property in MW");
        TagInfo odd = new TagInfo("p", "", "Power", DataKind.NUMBER, "sacks", "", false);
        assertThat(value(power, plain, odd, TagValue.good(3.0, T0)).value())
                .as("a unit that nobody knows is left as it is")
                .contains(3.0);
        assertThat(EquipmentValues.problems(power, new PropertySource.Constant("much"), tag -> Optional.empty()))
                .singleElement()
                .asString()
                .contains("Write a number");
        assertThat(EquipmentValues.problems(power, plain, tag -> Optional.empty()))
                .singleElement()
                .asString()
                .contains("not taken");
        assertThat(EquipmentValues.problems(
                        power, new PropertySource.FromTag(ref, "", "x * "), tag -> Optional.of(info)))
                .isNotEmpty();
        assertThat(EquipmentValues.problems(
                        new PropertyDesign("Lot", DataKind.NUMBER, "t", true, ""), plain, tag -> Optional.of(info)))
                .singleElement()
                .asString()
                .contains("does not turn");
        assertThat(EquipmentValues.gaps(List.of(power), Map.of())).containsExactly("Power");
    }

    private static TagValue value(PropertyDesign property, PropertySource from, TagInfo info, TagValue now) {
        return EquipmentValues.value(property, from, tag -> Optional.of(info), tag -> now, T0);
    }
}
