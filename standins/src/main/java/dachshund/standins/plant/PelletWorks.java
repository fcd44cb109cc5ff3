package dachshund.standins.plant;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * Quillmoor Pellet Works, an invented plant: intake, drying, milling, pelleting, cooling, bagging; meters and silos beside. Plain Java without threads
 * or clock; whoever drives it says how far time goes on, so a week passes in seconds. The same seed and the same steps
 * give the same values.
 */
public final class PelletWorks {

    private static final Duration LONGEST_STEP = Duration.ofSeconds(5);

    private final List<Equipment> equipment = new ArrayList<>();
    private final List<EnergyMeter> meters = new ArrayList<>();
    private final List<Silo> silos = new ArrayList<>();
    private final List<PlantTag> tags;
    private final Weighbridge weighbridge;
    private final List<PelletLine> lines;
    private final PalletRecords pallets;
    private Instant now;

    public PelletWorks(long seed, Instant start) {
        now = start;
        Drying.Burner burner = new Drying.Burner(seed + 1);
        equipment.add(new Drying.Dryer(burner, seed + 2));
        equipment.add(burner);
        List<HammerMill> mills = List.of(new HammerMill("HM1", seed + 3), new HammerMill("HM2", seed + 4));
        equipment.addAll(mills);
        lines = List.of(
                new PelletLine("PL1", seed + 5), new PelletLine("PL2", seed + 6), new PelletLine("PL3", seed + 7));
        equipment.addAll(lines);
        equipment.add(new Cooling(lines, seed + 8));
        Bagging.Checkweigher checkweigher = new Bagging.Checkweigher(seed + 9);
        Bagging.Bagger bagger = new Bagging.Bagger(lines, checkweigher, seed + 10);
        equipment.add(bagger);
        pallets = bagger.pallets();
        equipment.add(checkweigher);
        weighbridge = new Weighbridge(seed + 11);
        equipment.add(weighbridge);
        for (int i = 0; i < 2; i++) {
            HammerMill mill = mills.get(i);
            meters.add(new EnergyMeter(
                    "Mill " + (i + 1), 41_210_877L + i * 3_000_017L, () -> mill.power() + 9, seed + 20 + i));
        }
        for (int i = 0; i < 3; i++) {
            PelletLine line = lines.get(i);
            meters.add(new EnergyMeter(
                    "Pellet line " + (i + 1),
                    i == 1 ? EnergyMeter.ROLLOVER - 900 : 62_007_331L + i * 1_900_003L,
                    () -> line.power() + 22,
                    seed + 30 + i));
            silos.add(new Silo("S" + (i + 1), 38 + i * 17, line::output, seed + 50 + i));
        }
        silos.add(new Silo("S4", 71, () -> 0.6, seed + 53));
        meters.add(new EnergyMeter("Drying", 17_355_120L, () -> 178, seed + 40));
        meters.add(new EnergyMeter("Cooling and bagging", 9_120_440L, () -> 64, seed + 41));
        meters.add(new EnergyMeter("Offices", 1_203_118L, () -> 7.5, seed + 42));
        tags = equipment.stream().flatMap(each -> each.tags().stream()).toList();
        tags.forEach(tag -> tag.begin(start));
    }

    public List<PlantTag> tags() {
        return tags;
    }

    public Weighbridge weighbridge() {
        return weighbridge;
    }

    /** From now on whatever the plant asks for comes without long pauses, and is remembered. */
    public void hurry() {
        weighbridge.hurry();
        lines.forEach(PelletLine::hurry);
        pallets.hurry();
    }

    /** No truck comes and no lot ends any more. */
    public void shut() {
        weighbridge.shut();
        lines.forEach(PelletLine::shut);
    }

    /** Its controllers have lost their memory, but for what outlives it: each counts its requests anew with its next step. */
    public void forget() {
        weighbridge.forget();
        lines.forEach(PelletLine::forget);
        pallets.forget();
    }

    /** Whether no truck and no lot waits to be answered. */
    public boolean isAnswered() {
        return weighbridge.empty() && lines.stream().allMatch(PelletLine::booked);
    }

    /** Lots that have ended since it was hurried. */
    public List<String> endedLots() {
        return lines.stream().flatMap(line -> line.ended().stream()).toList();
    }

    /** Index, lot, bags and kilos of each pallet whose record somebody has confirmed. */
    public List<String> confirmedPallets() {
        return pallets.confirmed();
    }

    /** The eight electricity meters, in the order of their Modbus units. */
    public List<EnergyMeter> meters() {
        return meters;
    }

    public List<Silo> silos() {
        return silos;
    }

    /** The instant the plant has got to. */
    public Instant now() {
        return now;
    }

    /** Lets the plant run on to the instant, in steps of 5 s at most; one in the past is passed over. */
    public void runTo(Instant until) {
        while (now.isBefore(until)) {
            Duration step = Duration.between(now, until);
            step = step.compareTo(LONGEST_STEP) > 0 ? LONGEST_STEP : step;
            now = now.plus(step);
            double seconds = step.toNanos() / 1e9;
            equipment.forEach(each -> each.advance(seconds, now));
            meters.forEach(each -> each.advance(seconds, now));
            silos.forEach(each -> each.advance(seconds, now));
        }
    }
}
