package dachshund.drill;

import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Map;

/** Tries what the product promises, by its name: {@code kill --times=20 --seed=1}. Ends with 0 where all adds up. */
public final class Drill {

    private static final Map<String, Exercise> EXERCISES = new LinkedHashMap<>();

    static {
        EXERCISES.put("simulator", new SimulatorDrill());
        EXERCISES.put("kill", new KillDrill());
        EXERCISES.put("database", new DatabaseDrill());
        EXERCISES.put("tables", new TablesDrill());
        EXERCISES.put("full", new FullDrill());
        EXERCISES.put("clock", new ClockDrill());
        EXERCISES.put("losses", new LossDrill());
        EXERCISES.put("backup", new BackupDrill());
        EXERCISES.put("transaction", new TransactionDrill());
        EXERCISES.put("business", new BusinessDrill());
    }

    /** One drill: says what it does and what it counted. */
    interface Exercise {

        /** @return whether all is as promised */
        boolean run(Options options) throws Exception;
    }

    /** Numbers given as --name=5. */
    record Options(String[] words) {

        int number(String name, int otherwise) {
            return Arrays.stream(words)
                    .filter(word -> word.startsWith("--" + name + "="))
                    .map(word -> Integer.parseInt(word.substring(name.length() + 3)))
                    .findFirst()
                    .orElse(otherwise);
        }
    }

    private Drill() {}

    static LocalTime time() {
        return LocalTime.now(ZoneOffset.UTC).truncatedTo(ChronoUnit.MILLIS);
    }

    public static void main(String[] args) throws Exception {
        if (args.length == 0 || !EXERCISES.containsKey(args[0])) {
            System.err.println("Name one of: " + String.join(", ", EXERCISES.keySet()));
            System.exit(2);
        }
        long from = System.nanoTime();
        boolean good = EXERCISES.get(args[0]).run(new Options(args));
        System.out.printf(
                "The drill \"%s\" %s (%d s).%n",
                args[0], good ? "is as promised" : "IS NOT AS PROMISED", (System.nanoTime() - from) / 1_000_000_000);
        System.exit(good ? 0 : 1);
    }
}
