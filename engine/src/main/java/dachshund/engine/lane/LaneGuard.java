package dachshund.engine.lane;

import dachshund.core.destination.StoreProblem;
import dachshund.core.time.PlantClock;

/** The one door through which a store works for a lane: whatever is thrown there ends in a state and a sentence of that lane. */
final class LaneGuard {

    private LaneGuard() {}

    interface Piece {
        /** Whether there is more to do for the lane. */
        boolean done() throws StoreProblem;
    }

    /**
     * What the piece says; false where something stands in the lane's way.
     *
     * @param answered told when it is clear that the destination was reached
     * @throws StoreProblem only where the destination is away, which is not the lane's own affair
     */
    static boolean on(Lane lane, PlantClock clock, Runnable answered, Piece piece) throws StoreProblem {
        try {
            return piece.done();
        } catch (StoreProblem problem) {
            boolean away = problem.kind() == StoreProblem.Kind.AWAY;
            lane.uncertain |= away || problem.kind() == StoreProblem.Kind.UNKNOWN;
            if (away) {
                throw problem;
            }
            answered.run();
            lane.trouble(problem, clock);
        } catch (LaneWork.Faulty faulty) {
            answered.run();
            lane.fault(faulty.getMessage(), clock);
        } catch (RuntimeException | Error unknown) {
            lane.uncertain = true;
            lane.trouble(LaneWork.unknown(unknown), clock);
        }
        return false;
    }
}
