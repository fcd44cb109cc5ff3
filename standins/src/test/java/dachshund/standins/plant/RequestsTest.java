package dachshund.standins.plant;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;

/** What the plant asks for, answered by somebody who is late, silent, and sometimes says no: its own books balance. */
class RequestsTest {

    private static final Instant START = Instant.parse("2026-11-28T06:00:00Z");

    private final PelletWorks plant = new PelletWorks(17, START);
    private final Random random = new Random(4);

    private PlantTag tag(String path, String name) {
        return plant.tags().stream()
                .filter(each -> each.path().endsWith(path) && each.name().equals(name))
                .findFirst()
                .orElseThrow();
    }

    private long number(String path, String name) {
        return ((Number) tag(path, name).value()).longValue();
    }

    private void write(String path, String name, Object value) {
        assertThat(tag(path, name).write(value, plant.now())).isTrue();
    }

    @Test
    void everyEndedLotIsAskedForUntilItIsAnswered() {
        Map<String, Set<String>> ended = new HashMap<>();
        Map<String, Set<String>> asked = new HashMap<>();
        Map<String, Integer> told = new HashMap<>();
        Set<String> requests = new HashSet<>();
        for (int second = 0; second < 2 * 86_400; second += 5) {
            if (second % 1700 == 0) {
                plant.forget();
            }
            plant.runTo(plant.now().plus(Duration.ofSeconds(5)));
            for (String line : List.of("PL1", "PL2", "PL3")) {
                String lot = (String) tag(line, "Ended lot").value();
                if (!lot.isEmpty()) {
                    ended.computeIfAbsent(line, none -> new HashSet<>()).add(lot);
                }
                long request = number(line, "Lot request number");
                if (request != 0 && number(line, "Lot answered number") != request && random.nextInt(4) == 0) {
                    asked.computeIfAbsent(line, none -> new HashSet<>()).add(lot);
                    requests.add(line + number(line, "Lot request epoch") + "/" + request);
                    write(line, "Lot answer code", random.nextInt(9) == 0 ? 3L : 1L);
                    write(line, "Lot answered number", request);
                    told.merge(line, 1, Integer::sum);
                }
            }
        }
        for (String line : List.of("PL1", "PL2", "PL3")) {
            assertThat(ended.get(line).size()).as(line).isGreaterThan(15);
            assertThat(asked.get(line)).as("each was asked for").containsAll(ended.get(line));
            assertThat(number(line, "Lots never answered")).isZero();
            // Some are asked for twice, and counted once.
            assertThat(number(line, "Lots answered"))
                    .isBetween((long) ended.get(line).size() - 1, (long) told.get(line));
        }
        assertThat(requests.size()).isGreaterThan(45);
    }

    @Test
    void aTruckThatWasForgottenIsToldOfByWhatItHadAskedFor() {
        plant.hurry();
        Set<String> asked = new HashSet<>();
        for (int half = 0; half < 4000; half++) {
            plant.runTo(plant.now().plus(Duration.ofMillis(500)));
            long request = number("Weighbridge", "Request number");
            if (request == 0) {
                continue;
            }
            asked.add(number("Weighbridge", "Request epoch") + "/" + request);
            if (half % 7 == 0) {
                plant.forget();
            } else if (half % 5 == 0) {
                write("Weighbridge", "Answer code", 1L);
                write("Weighbridge", "Answered number", request);
            }
        }
        List<Weighbridge.Visit> visits = plant.weighbridge().visits();
        assertThat(visits).extracting(Weighbridge.Visit::forgotten).contains(true, false);
        assertThat(visits).allMatch(each -> each.forgotten() == (each.code() == 0));
        Set<String> told = new HashSet<>();
        visits.forEach(each -> assertThat(told.add(each.epoch() + "/" + each.number()))
                .as("told of once")
                .isTrue());
        assertThat(asked).containsAll(told);
    }

    @Test
    void recordsOfPalletsAreTakenOneByOneAndNoneTwice() {
        Map<Long, Double> taken = new TreeMap<>();
        List<Long> refused = new ArrayList<>();
        for (int second = 0; second < 86_400; second += 2) {
            plant.runTo(plant.now().plus(Duration.ofSeconds(2)));
            long index = number("BG1", "Record index");
            if (index == 0 || number("BG1", "Confirmed record") == index || random.nextInt(10) != 0) {
                continue;
            }
            boolean no = !taken.isEmpty() && random.nextInt(15) == 0;
            if (no) {
                refused.add(index);
            } else {
                assertThat(taken.put(index, tag("BG1", "Record net weight").number()))
                        .as("taken once")
                        .isNull();
            }
            write("BG1", "Confirmation code", no ? 3L : 1L);
            write("BG1", "Confirmed record", index);
        }
        assertThat(taken.size()).isGreaterThan(100);
        assertThat(refused).isNotEmpty();
        assertThat(number("BG1", "Records lost")).isZero();
        assertThat(number("BG1", "Records confirmed")).isBetween((long) taken.size() - 1, (long) taken.size());
        // Those that are taken follow each other: none is left out.
        List<Long> order = new ArrayList<>(taken.keySet());
        assertThat(order.get(order.size() - 1) - order.get(0)).isEqualTo(order.size() - 1);
        assertThat(taken.values()).allMatch(kilos -> kilos > 66 * 14.8 && kilos < 66 * 15.4);
    }
}
