package dachshund.standins.plant;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;

/** A pellet press: runs lots of 40 to 90 minutes, cleans between them, and blocks its die now and then. */
final class PelletLine extends Equipment {

    private static final DateTimeFormatter DAY =
            DateTimeFormatter.ofPattern("yyMMdd").withZone(ZoneOffset.UTC);

    /** Seconds that it waits for an answer, and then before it asks again. */
    private static final double PATIENCE = 60;

    private static final double PAUSE = 5;

    private final String name;
    private final PlantTag feedSet;
    private final PlantTag steamSet;
    private final PlantTag state;
    private final PlantTag lot;
    private final PlantTag die;
    private final PlantTag power;
    private final PlantTag current;
    private final PlantTag feeder;
    private final PlantTag output;
    private final PlantTag steam;
    private final PlantTag conditioner;
    private final PlantTag gap;
    private final PlantTag hours;
    private final PlantTag pellets;
    private final PlantTag fault;
    private final PlantTag endedLot;
    private final Handshake lotEnd;
    private final PlantTag told;
    private final PlantTag refused;
    private final PlantTag late;
    private final PlantTag never;
    private double sinceAsked;
    /** What was refused is asked for by another number. */
    private boolean anew;

    private final List<String> ended = new ArrayList<>();
    private volatile boolean hurried;
    private volatile boolean closed;
    private Phase phase = Phase.RUN;
    private double left;
    private int lotOfDay;
    private String day = "";
    private double tonnes;
    private double runSeconds;

    private enum Phase {
        RUN,
        CLEAN,
        IDLE,
        FAULT
    }

    PelletLine(String name, long seed) {
        super("Pelleting/" + name, seed);
        this.name = name;
        feedSet = setPoint("Feed rate set point", 34, "rpm", 0, 60, "Wanted speed of the feed screw");
        steamSet = setPoint("Conditioner set point", 78, "°C", 60, 95, "Wanted temperature in the conditioner");
        state = state("State", "run", "idle, run, fault or clean");
        lot = state("Lot ID", name + "-000000-01", "Lot that the line makes now");
        die = measured("Die temperature", 92, "°C", 0, 160, "Ring die, outside");
        power = measured("Main motor power", 212, "kW", 0, 355, "Main motor");
        current = measured("Main motor current", 372, "A", 0, 640, "Main motor");
        feeder = measured("Feed screw speed", 34, "rpm", 0, 60, "Feed screw");
        output = measured("Pellet output", 3.4, "t/h", 0, 6, "Belt weigher after the press");
        steam = measured("Steam flow", 118, "kg/h", 0, 300, "To the conditioner");
        conditioner = measured("Conditioner temperature", 78, "°C", 0, 120, "Meal after the conditioner");
        gap = measured("Roller gap", 0.32, "mm", 0, 2, "Between rollers and die");
        hours = counter("Running hours", 6100 + Math.floorMod(seed, 900), "h", "Hours of the main motor");
        pellets = counter("Pellets made", 48_000_000L + seed * 1000, "kg", "Counts up, never reset");
        fault = state("Die blocked", false, "Blockage of the die");
        endedLot = state("Ended lot", "", "Lot whose end is to be booked");
        lotEnd = new Handshake(this, "Lot");
        told = counter("Lots answered", 0, "", "Ended lots of which it was told what became of them");
        refused = counter("Lots refused", 0, "", "Of these, answered by: failed");
        late = counter("Lot answers too late", 0, "", "Times that it has asked in vain for " + (int) PATIENCE + " s");
        never = counter("Lots never answered", 0, "", "Lots whose end nobody knew of when the next one ended");
        left = 600 + random.nextInt(2400);
    }

    /** From now on lots last for half a minute, and those that end are remembered. */
    void hurry() {
        hurried = true;
    }

    /** Its controller has lost its memory, but for what it makes. */
    void forget() {
        lotEnd.forget();
    }

    /** No lot ends any more. */
    void shut() {
        closed = true;
    }

    /** Whether nobody has to be asked about a lot. */
    boolean booked() {
        return endedLot.value().equals("") && !lotEnd.asks();
    }

    /** Lots that have ended since it was hurried. */
    List<String> ended() {
        synchronized (ended) {
            return List.copyOf(ended);
        }
    }

    double output() {
        return output.number();
    }

    String lot() {
        return (String) lot.value();
    }

    double power() {
        return power.number();
    }

    @Override
    void advance(double seconds, Instant at) {
        booked(seconds, at);
        left -= seconds;
        if (lotOfDay == 0) {
            nextLot(at);
        }
        left = hurried ? Math.min(left, phase == Phase.RUN ? 30 : 3) : left;
        // In a hurry, none begins before the one before is booked.
        boolean waits = hurried && phase == Phase.CLEAN && !booked();
        if (left <= 0 && !closed && !waits) {
            turn(at);
        } else if (!hurried && phase == Phase.RUN && chance(6 * 3600, seconds)) {
            phase = Phase.FAULT;
            left = 240 + random.nextInt(500);
        }
        boolean on = phase == Phase.RUN;
        state.set(phase.name().toLowerCase(java.util.Locale.ROOT), at);
        fault.set(phase == Phase.FAULT, at);
        follow(feeder, on ? feedSet.number() : phase == Phase.CLEAN ? 6 : 0, 8, on ? 0.15 : 0, seconds, at);
        follow(output, on ? feeder.number() * 0.1 : 0, 20, on ? 0.015 : 0, seconds, at);
        double rated = phase == Phase.FAULT && left > 230
                ? 330
                : on ? 62 + feeder.number() * 4.4 : phase == Phase.CLEAN ? 48 : 0;
        follow(power, rated, 3, rated > 0 ? 1.8 : 0, seconds, at);
        follow(current, power.number() * 1.74 + (rated > 0 ? 4 : 0), 1, rated > 0 ? 0.7 : 0, seconds, at);
        follow(conditioner, on ? steamSet.number() : 40, 60, 0.08, seconds, at);
        follow(steam, on ? 20 + conditioner.number() * 1.26 : 0, 12, on ? 0.6 : 0, seconds, at);
        follow(die, on ? 62 + power.number() * 0.145 : phase == Phase.FAULT ? 118 : 45, 420, 0.05, seconds, at);
        follow(gap, 0.32, 900, 0.0004, seconds, at);
        tonnes += output.number() * seconds / 3600;
        if (tonnes * 1000 >= 1) {
            long whole = (long) (tonnes * 1000);
            tonnes -= whole / 1000.0;
            pellets.set((Long) pellets.value() + whole, at);
        }
        runSeconds += on ? seconds : 0;
        if (runSeconds >= 3600) {
            runSeconds -= 3600;
            hours.set((Long) hours.value() + 1, at);
        }
    }

    /** The end of a lot is asked for until somebody answers. */
    private void booked(double seconds, Instant at) {
        sinceAsked += seconds;
        switch (lotEnd.advance(seconds, false, at)) {
            case TOLD -> {
                told.set((Long) told.value() + 1, at);
                anew = lotEnd.code() == 3;
                if (anew) {
                    refused.set((Long) refused.value() + 1, at);
                    sinceAsked = 0;
                } else {
                    endedLot.set("", at);
                }
                lotEnd.end(at);
            }
            case LATE -> {
                lotEnd.end(at);
                sinceAsked = 0;
                if ((Long) told.value() > 0) {
                    late.set((Long) late.value() + 1, at);
                } else {
                    // Before the first answer ever, nobody is there to give one.
                    endedLot.set("", at);
                }
            }
            case RESTARTED -> {
                lotEnd.end(at);
                lotEnd.ask(PATIENCE, at);
            }
            case WAITS -> {
                if (!lotEnd.asks() && !endedLot.value().equals("") && sinceAsked > PAUSE) {
                    if (anew) {
                        lotEnd.ask(PATIENCE, at);
                    } else {
                        lotEnd.insist(at);
                    }
                    anew = false;
                }
            }
        }
    }

    private void turn(Instant at) {
        switch (phase) {
            case RUN -> {
                phase = Phase.CLEAN;
                left = 180 + random.nextInt(240);
            }
            case CLEAN -> {
                phase = chance(5, 1) ? Phase.IDLE : Phase.RUN;
                left = phase == Phase.IDLE ? 300 + random.nextInt(600) : lotLength();
                nextLot(at);
            }
            case IDLE, FAULT -> {
                phase = Phase.RUN;
                left = lotLength();
            }
        }
    }

    private double lotLength() {
        return Duration.ofMinutes(40 + random.nextInt(51)).toSeconds();
    }

    private void nextLot(Instant at) {
        if (!endedLot.value().equals("")) {
            never.set((Long) never.value() + 1, at);
        }
        if (lotOfDay > 0) {
            endedLot.set((String) lot.value(), at);
            synchronized (ended) {
                if (hurried) {
                    ended.add((String) lot.value());
                }
            }
        }
        String today = DAY.format(at);
        lotOfDay = today.equals(day) ? lotOfDay + 1 : 1;
        day = today;
        lot.set(String.format("%s-%s-%02d", name, today, lotOfDay), at);
        if (!endedLot.value().equals("")) {
            lotEnd.ask(PATIENCE, at);
        }
    }
}
