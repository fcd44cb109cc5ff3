package dachshund.standins.plant;

import java.time.Instant;

/**
 * The scale at the gate: a truck comes every few minutes, stands still, and its controller asks for a ticket by a number. It
 * waits for the answer, gives up after a while, asks twice now and then, and is restarted sometimes in the middle of it.
 */
final class Weighbridge extends Equipment {

    /** Plates that the order office knows; the last one it does not. */
    static final String[] PLATES = {
        "QM 101", "QM 102", "QM 117", "HB 2204", "HB 2219", "KL 73", "KL 78", "RN 5001", "RN 5014", "TS 640", "XX 9"
    };

    private static final double PATIENCE = 30;
    private static final long LAST_NUMBER = 999;

    private enum Phase {
        EMPTY,
        SETTLING,
        ASKED,
        LEAVING
    }

    private final PlantTag weight = measured("Weight", 0, "kg", 0, 60_000, "What stands on the scale");
    private final PlantTag stable = state("Stable", false, "The weight does not move any more");
    private final PlantTag plate = state("Truck", "", "Its plate, as the gate has read it");
    private final PlantTag number = state("Request number", 0L, "Counts up with each truck; 0 for no request");
    private final PlantTag epoch = state("Request epoch", 0L, "Changes when the controller begins to count anew");
    private final PlantTag answered = written("Answered number", 0L, "Number of the request that is answered");
    private final PlantTag code = written("Answer code", 0L, "1 done, 2 done but, 3 failed");
    private final PlantTag text = written("Answer text", "", "What the driver reads");
    private final PlantTag ticket = written("Ticket number", 0L, "Shown on the display at the gate");
    private final PlantTag good = counter("Answers in time", 0, "", "Requests that were answered");
    private final PlantTag refused = counter("Requests refused", 0, "", "Answered by: failed");
    private final PlantTag odd =
            counter("Answers that do not fit", 0, "", "The text does not name the ticket on the display");
    private final PlantTag late = counter("Requests without answer", 0, "", "Given up after " + (int) PATIENCE + " s");
    private Phase phase = Phase.EMPTY;
    private double left = 40;
    private double load;
    private long counted;
    private boolean again;

    Weighbridge(long seed) {
        super("Intake/Weighbridge", seed);
    }

    @Override
    void advance(double seconds, Instant at) {
        if ((Long) epoch.value() == 0) {
            epoch.set(at.getEpochSecond(), at);
        }
        left -= seconds;
        follow(weight, phase == Phase.EMPTY || phase == Phase.LEAVING ? 0 : load, 1.5, 4, seconds, at);
        switch (phase) {
            case EMPTY -> {
                if (left <= 0) {
                    plate.set(PLATES[chance(14, 1) ? PLATES.length - 1 : random.nextInt(PLATES.length - 1)], at);
                    load = 17_000 + random.nextInt(23_000);
                    turn(Phase.SETTLING, 12);
                }
            }
            case SETTLING -> {
                if (left <= 0) {
                    stable.set(true, at);
                    counted = counted >= LAST_NUMBER ? 1 : counted + 1;
                    number.set(counted, at);
                    again = chance(12, 1);
                    turn(Phase.ASKED, PATIENCE);
                }
            }
            case ASKED -> asked(at);
            case LEAVING -> {
                if (left <= 0) {
                    turn(Phase.EMPTY, 60 + random.nextInt(120));
                }
            }
        }
    }

    private void asked(Instant at) {
        boolean told = answered.value().equals(number.value());
        if (told && again) {
            // It has not understood, and asks for the same once more.
            again = false;
            number.set(0L, at);
            left = PATIENCE;
        } else if (number.value().equals(0L)) {
            number.set(counted, at);
        } else if (told) {
            take(good, at);
            if (code.value().equals(3L)) {
                take(refused, at);
            } else if (code.value().equals(1L) && !text.value().equals("ticket " + ticket.value())) {
                take(odd, at);
            }
            leave(at);
        } else if (left <= 0) {
            // Before the first answer ever, nobody is there to give one.
            if ((Long) good.value() > 0) {
                take(late, at);
            }
            leave(at);
        } else if (chance(4000, 1)) {
            counted = 0;
            epoch.set(Math.max((Long) epoch.value() + 1, at.getEpochSecond()), at);
            answered.set(0L, at);
            leave(at);
        }
    }

    private static void take(PlantTag counter, Instant at) {
        counter.set((Long) counter.value() + 1, at);
    }

    private void leave(Instant at) {
        number.set(0L, at);
        stable.set(false, at);
        plate.set("", at);
        turn(Phase.LEAVING, 15);
    }

    private void turn(Phase next, double seconds) {
        phase = next;
        left = seconds;
    }
}
