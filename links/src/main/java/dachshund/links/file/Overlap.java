package dachshund.links.file;

import java.util.ArrayList;
import java.util.List;

/** Where the end of one text is the beginning of another (the failure function of Knuth, Morris and Pratt). */
final class Overlap {

    private Overlap() {}

    /** The lengths of all beginnings of {@code head} that are endings of {@code tail}, longest first, 0 not among them. */
    static List<Integer> lengths(byte[] head, byte[] tail) {
        int[] fail = new int[head.length + 1];
        for (int i = 1, k = 0; i < head.length; i++) {
            while (k > 0 && head[i] != head[k]) {
                k = fail[k];
            }
            if (head[i] == head[k]) {
                k++;
            }
            fail[i + 1] = k;
        }
        int k = 0;
        for (byte each : tail) {
            while (k > 0 && (k == head.length || each != head[k])) {
                k = fail[k];
            }
            if (k < head.length && each == head[k]) {
                k++;
            }
        }
        List<Integer> lengths = new ArrayList<>();
        for (; k > 0; k = fail[k]) {
            lengths.add(k);
        }
        return lengths;
    }
}
