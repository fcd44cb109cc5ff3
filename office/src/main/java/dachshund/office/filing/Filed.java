package dachshund.office.filing;

import dachshund.core.tag.TagFacts;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;

/**
 * Where a thing is filed.
 *
 * @param folder parts separated by " / ", from the largest to the smallest; empty for none
 * @param labels words to find it by
 */
public record Filed(String folder, List<String> labels) {

    public static final Filed NOWHERE = new Filed("", List.of());

    private static final String BETWEEN = " / ";
    private static final int LONGEST = 200;

    public Filed {
        labels = List.copyOf(labels);
    }

    /**
     * As people write it.
     *
     * @throws IllegalArgumentException with a sentence, where it cannot be kept
     */
    public static Filed read(String folder, String labels) {
        return new Filed(folder(folder), TagFacts.labels(labels));
    }

    /**
     * A folder as people write it: "Energy/Meters" is "Energy / Meters".
     *
     * @throws IllegalArgumentException with a sentence, where it is too long
     */
    public static String folder(String text) {
        String folder = Arrays.stream(text.split("/"))
                .map(part -> part.strip().replaceAll("\\s+", " "))
                .filter(part -> !part.isEmpty())
                .collect(Collectors.joining(BETWEEN));
        if (folder.length() > LONGEST) {
            throw new IllegalArgumentException("A folder has up to " + LONGEST + " characters.");
        }
        return folder;
    }

    /** Whether it stands in the folder or in one below it. */
    public boolean within(String other) {
        return folder.equals(other) || folder.startsWith(other + BETWEEN);
    }

    Filed in(String other) {
        return new Filed(other, labels);
    }

    Filed labelled(List<String> other) {
        return new Filed(folder, other);
    }
}
