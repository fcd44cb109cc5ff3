package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.web.people.Right;
import dachshund.web.people.Role;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.springframework.web.bind.annotation.RequestMethod;
import org.springframework.web.method.HandlerMethod;
import org.springframework.web.servlet.mvc.method.RequestMappingInfo;
import org.springframework.web.servlet.mvc.method.annotation.RequestMappingHandlerMapping;

/** Every address that the routing lists, asked by nobody and by each role, and changes with tokens that are missing, wrong or another's. */
class RoutesTest {

    private static final Site SITE = Site.demo();
    /** What needs another right than looking does for GET, and designing for the rest. The first that fits counts. */
    private static final Map<String, Right> OTHERS = new LinkedHashMap<>();

    static {
        OTHERS.put("[A-Z]+ /people/addresses.*", Right.MANAGE_ADDRESSES);
        OTHERS.put("[A-Z]+ /people/audit.*", Right.READ_AUDIT);
        OTHERS.put("[A-Z]+ /people/notices.*", Right.SET_NOTICES);
        OTHERS.put("[A-Z]+ /people.*", Right.MANAGE_PEOPLE);
        OTHERS.put("[A-Z]+ /plant/tokens.*", Right.MANAGE_KEYS);
        OTHERS.put("POST /plant/certificates.*", Right.MANAGE_KEYS);
        OTHERS.put("POST /plant/tag/(write|history/value)", Right.TYPE);
        OTHERS.put("POST /records/\\{id}/backfill.*", Right.RELEASE);
        OTHERS.put("POST /plant/sources/\\{id}/writing", Right.OPEN_PLANT);
        OTHERS.put("POST /plant/sources/\\{id}/(pause|resume)", Right.RELEASE);
        OTHERS.put("POST /records/\\{id}/(stop|start)", Right.RELEASE);
        OTHERS.put("POST /designs/ticked/(stop|start)", Right.RELEASE);
        OTHERS.put("POST /release", Right.RELEASE);
        OTHERS.put("POST /watch/.*", Right.RELEASE);
        OTHERS.put("GET /plant/(formulas|kept)/new", Right.DESIGN);
        OTHERS.put("GET /plant/equipment/from-tags", Right.DESIGN);
        OTHERS.put("GET /plant/history/table", Right.DESIGN);
        OTHERS.put("POST /review/answers/.*", Right.SEE);
        OTHERS.put("GET /review/queries/(new|check)", Right.DESIGN);
        OTHERS.put("GET /review/queries/\\{id}/fits", Right.DESIGN);
        OTHERS.put("GET /review/trends/\\{id}/(table|names|query|bands/query)", Right.DESIGN);
        OTHERS.put("GET /review/databases/\\{id}/(tables|rows.*)", Right.DESIGN);
    }

    private static final String FOR_ANYBODY = "/sign-in|/invitation|/denied|/error|/password";

    private static final Map<Role, Visitor> visitors = new LinkedHashMap<>();

    private record Route(String method, String pattern) {

        String path() {
            return pattern.replaceAll("\\{(index|at|column|number|release)[^}]*}", "0")
                    .replaceAll("\\{[^}]+}", "zzzzzzzz");
        }

        Right needed() {
            String all = method + " " + pattern;
            return OTHERS.entrySet().stream()
                    .filter(each -> all.matches(each.getKey()))
                    .map(Map.Entry::getValue)
                    .findFirst()
                    .orElse(method.equals("GET") ? Right.SEE : Right.DESIGN);
        }
    }

    @BeforeAll
    static void signIn() throws Exception {
        Visitor admin = new Visitor(SITE).signIn("admin", "admin-demo");
        Visitor operator = admin.invites("routed", "OPERATOR");
        visitors.put(Role.VIEWER, new Visitor(SITE).signIn("viewer", "viewer-demo"));
        visitors.put(Role.OPERATOR, operator);
        visitors.put(Role.ENGINEER, new Visitor(SITE).signIn("engineer", "engineer-demo"));
        visitors.put(Role.ADMINISTRATOR, admin);
    }

    @AfterAll
    static void remove() throws Exception {
        visitors.get(Role.ADMINISTRATOR).post("/people/routed/remove");
    }

    private static List<Route> routes() {
        List<Route> all = new ArrayList<>();
        for (Map.Entry<RequestMappingInfo, HandlerMethod> each : SITE.bean(RequestMappingHandlerMapping.class)
                .getHandlerMethods()
                .entrySet()) {
            for (String pattern : each.getKey().getPatternValues()) {
                boolean own = !pattern.startsWith("/api/")
                        && !pattern.matches(FOR_ANYBODY)
                        && !pattern.matches(".*events|/pulse.*");
                for (RequestMethod method : each.getKey().getMethodsCondition().getMethods()) {
                    if (own) {
                        all.add(new Route(method.name(), pattern));
                    }
                }
            }
        }
        assertThat(all).as("found by the routing").hasSizeGreaterThan(120);
        return all;
    }

    @Test
    void eachRoleGetsWhereItsRightsLeadAndNowhereElse() throws Exception {
        List<String> wrong = new ArrayList<>();
        Visitor stranger = new Visitor(SITE);
        String strangers = stranger.token();
        Map<Role, String> tokens = new LinkedHashMap<>();
        for (Map.Entry<Role, Visitor> each : visitors.entrySet()) {
            tokens.put(each.getKey(), each.getValue().token());
        }
        for (Route route : routes()) {
            HttpResponse<String> nobody = asked(stranger, strangers, route);
            if (nobody.statusCode() != 302
                    || !nobody.headers().firstValue("Location").orElse("").startsWith("/sign-in")) {
                wrong.add(route + " answers nobody with " + nobody.statusCode());
            }
            for (Map.Entry<Role, Visitor> each : visitors.entrySet()) {
                HttpResponse<String> answer = asked(each.getValue(), tokens.get(each.getKey()), route);
                boolean may = each.getKey().rights().contains(route.needed());
                if (may == (answer.statusCode() == 403) || answer.statusCode() >= 500) {
                    wrong.add(route + " answers " + each.getKey() + " with " + answer.statusCode() + "; it needs "
                            + route.needed());
                }
            }
        }
        assertThat(wrong).isEmpty();
    }

    private static HttpResponse<String> asked(Visitor visitor, String token, Route route) throws Exception {
        return route.method().equals("GET")
                ? visitor.get(route.path())
                : visitor.postBare(route.path(), "_csrf", token);
    }

    @Test
    void noChangeIsTakenWithoutTheTokenOfTheOwnPage() throws Exception {
        List<String> wrong = new ArrayList<>();
        Visitor admin = visitors.get(Role.ADMINISTRATOR);
        String foreign = visitors.get(Role.VIEWER).token();
        for (Route route : routes()) {
            if (route.method().equals("GET")) {
                continue;
            }
            for (String[] sent : new String[][] {{}, {"_csrf", "x"}, {"_csrf", foreign}}) {
                if (admin.postBare(route.path(), sent).statusCode() != 403) {
                    wrong.add(route + " was taken with " + List.of(sent));
                }
            }
        }
        assertThat(wrong).isEmpty();
    }
}
