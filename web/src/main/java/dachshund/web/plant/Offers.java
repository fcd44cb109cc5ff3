package dachshund.web.plant;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.PlantLink;
import dachshund.core.source.PlantLink.Found;
import dachshund.core.tag.TagInfo;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/** Everything a source offers, folder after folder. */
public final class Offers {

    /** More are not listed at once; the page says so. */
    public static final int MOST = 10_000;

    private Offers() {
    }

    /** All tags, up to {@link #MOST}; a folder that is reached twice is listed once. */
    public static List<TagInfo> all(PlantLink link) throws LinkProblem {
        List<TagInfo> tags = new ArrayList<>();
        Deque<Found.Folder> open = new ArrayDeque<>();
        Set<String> seen = new HashSet<>();
        take(link.browse("", ""), tags, open);
        while (!open.isEmpty() && tags.size() < MOST) {
            Found.Folder folder = open.removeFirst();
            if (seen.add(folder.address())) {
                String path = folder.path().isEmpty() ? folder.name() : folder.path() + " / " + folder.name();
                take(link.browse(folder.address(), path), tags, open);
            }
        }
        return tags;
    }

    private static void take(List<Found> found, List<TagInfo> tags, Deque<Found.Folder> open) {
        for (Found each : found) {
            if (each instanceof Found.Folder folder) {
                open.addLast(folder);
            } else if (each instanceof Found.Tag tag) {
                tags.add(tag.info());
            }
        }
    }
}
