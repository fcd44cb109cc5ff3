package dachshund.web.notice;

import jakarta.mail.Folder;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.Session;
import jakarta.mail.Store;
import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;

/** The mailbox of the demo's mail server, read by IMAP as any program for mail would. */
final class Mailbox {

    private static final int MOST = 50;
    private static final String MILLIS = "3000";

    /** One mail as a page shows it. */
    record Mail(Instant at, String from, String subject, String text) {}

    private Mailbox() {}

    /** The newest ones, newest first. */
    static List<Mail> newest(int port) throws MessagingException, IOException {
        Properties properties = new Properties();
        properties.setProperty("mail.imap.connectiontimeout", MILLIS);
        properties.setProperty("mail.imap.timeout", MILLIS);
        try (Store store = Session.getInstance(properties).getStore("imap")) {
            store.connect("127.0.0.1", port, DemoMail.USER, DemoMail.PASSWORD);
            try (Folder inbox = store.getFolder("INBOX")) {
                inbox.open(Folder.READ_ONLY);
                int count = inbox.getMessageCount();
                List<Mail> all = new ArrayList<>();
                for (int n = count; n > Math.max(0, count - MOST); n--) {
                    Message one = inbox.getMessage(n);
                    all.add(new Mail(
                            one.getSentDate().toInstant(),
                            one.getFrom()[0].toString(),
                            one.getSubject(),
                            String.valueOf(one.getContent())));
                }
                return all;
            }
        }
    }
}
