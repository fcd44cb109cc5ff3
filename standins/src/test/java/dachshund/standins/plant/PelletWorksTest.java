package dachshund.standins.plant;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.Test;

class PelletWorksTest {

    private static final Instant START = Instant.parse("2026-11-17T06:00:00Z");

    private static PlantTag tag(PelletWorks works, String path, String name) {
        return works.tags().stream()
                .filter(tag -> tag.path().equals(path) && tag.name().equals(name))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void theSameSeedGivesTheSamePlant() {
        PelletWorks one = new PelletWorks(7, START);
        PelletWorks two = new PelletWorks(7, START);
        PelletWorks other = new PelletWorks(8, START);
        List.of(one, two, other).forEach(works -> works.runTo(START.plus(Duration.ofHours(3))));
        assertThat(one.tags())
                .extracting(PlantTag::value)
                .isEqualTo(two.tags().stream().map(PlantTag::value).toList())
                .isNotEqualTo(other.tags().stream().map(PlantTag::value).toList());
    }

    @Test
    void aWeekPassesInSecondsAndStaysBelievable() {
        PelletWorks works = new PelletWorks(7, START);
        PlantTag moisture = tag(works, "Drying/Drum dryer", "Chip moisture out");
        PlantTag outlet = tag(works, "Drying/Drum dryer", "Outlet temperature");
        PlantTag state = tag(works, "Pelleting/PL1", "State");
        PlantTag lot = tag(works, "Pelleting/PL1", "Lot ID");
        PlantTag bags = tag(works, "Bagging/BG1", "Bag count");
        Set<Object> states = new HashSet<>();
        Set<Object> lots = new HashSet<>();
        Set<PlantTag.Health> healths = new HashSet<>();
        boolean rolledOver = false;
        int before = (Integer) bags.value();
        for (int minute = 0; minute < 7 * 24 * 60; minute++) {
            works.runTo(START.plus(Duration.ofMinutes(minute)));
            states.add(state.value());
            lots.add(lot.value());
            healths.add(moisture.health());
            rolledOver |= (Integer) bags.value() < before;
            before = (Integer) bags.value();
            assertThat(outlet.number()).isBetween(75.0, 130.0);
            assertThat(moisture.number()).isBetween(4.0, 18.0);
        }
        assertThat(states).containsExactlyInAnyOrder("run", "idle", "clean", "fault");
        assertThat(lots).hasSizeBetween(100, 260); // one every 40 to 90 minutes of running
        assertThat(healths)
                .contains(PlantTag.Health.GOOD, PlantTag.Health.BAD_SENSOR, PlantTag.Health.UNCERTAIN_SENSOR);
        assertThat(rolledOver).as("the bag counter goes from 65,535 back to 0").isTrue();
        assertThat(works.now()).isEqualTo(START.plus(Duration.ofMinutes(7 * 24 * 60 - 1)));
    }

    @Test
    void setPointsTakeValuesOfTheirTypeAndRangeAndThePlantFollows() {
        PelletWorks works = new PelletWorks(7, START);
        PlantTag set = tag(works, "Drying/Drum dryer", "Fan speed set point");
        PlantTag fan = tag(works, "Drying/Drum dryer", "Fan speed");
        assertThat(set.write(500.0, START)).as("out of range").isFalse();
        assertThat(set.write("fast", START)).as("not a number").isFalse();
        assertThat(fan.write(50.0, START)).as("measured, not set").isFalse();
        assertThat(set.write(50.0, START)).isTrue();
        works.runTo(START.plusSeconds(60));
        assertThat(fan.number()).isBetween(48.0, 52.0);
    }

    @Test
    void aHundredTagsAndSomeWithPathsUnitsAndRanges() {
        List<PlantTag> tags = new PelletWorks(7, START).tags();
        assertThat(tags).hasSizeBetween(150, 180);
        assertThat(tags).extracting(tag -> tag.path() + "/" + tag.name()).doesNotHaveDuplicates();
        assertThat(tags)
                .filteredOn(PlantTag::hasRange)
                .allMatch(tag -> tag.number() >= tag.low() && tag.number() <= tag.high());
    }
}
