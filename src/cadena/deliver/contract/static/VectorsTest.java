import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;

/**
 * Replays the vectors against a stand-in app; put your own in its place.
 *
 * <p>What the stand-in does not know how to take it takes over from the vector, and is not
 * compared.
 */
public final class VectorsTest {
  private static Path here;
  private static Map<String, Object> contract;
  /** The least share of all steps that must be compared; raise it with what your app can take. */
  private static final double LEAST = 0.1;
  private static int compared;
  private static int over;

  private VectorsTest() {}

  @SuppressWarnings("unchecked")
  private static Map<String, Object> map(Object value) {
    return (Map<String, Object>) value;
  }

  @SuppressWarnings("unchecked")
  private static List<Object> list(Object value) {
    return (List<Object>) value;
  }

  private static void demand(boolean holds, String said) {
    if (!holds) throw new AssertionError(said);
  }

  /** An app of one pane: a chain for each section, and links that carry keys. */
  private static final class StandIn {
    private String section = (String) contract.get("start");
    private final Map<String, List<Routes.Route>> chains = new LinkedHashMap<>();

    List<Routes.Route> chain() {
      return chains.computeIfAbsent(section, name -> new ArrayList<>());
    }

    /** Take a state over from a vector. */
    void become(Map<String, Object> line) {
      section = (String) line.get("section");
      List<Routes.Route> routes = new ArrayList<>();
      for (Object each : list(line.get("chain"))) {
        Map<String, Object> entry = map(each);
        String screen = (String) entry.get("screen");
        Routes.Route route = Routes.routeOf(screen, map(entry.get("arguments")));
        demand(route != null, entry.toString());
        routes.add(route);
      }
      chains.put(section, routes);
    }

    /** Whether the event is one that this app knows how to take. */
    boolean take(Map<String, Object> event) {
      switch ((String) event.get("do")) {
        case "choose":
          return follow("row", (String) event.getOrDefault("list", ""), event);
        case "press":
          return follow("button", (String) event.get("button"), event);
        case "back":
          if (chain().size() > 1) chain().remove(chain().size() - 1);
          return !chain().isEmpty();
        default:
          return false;
      }
    }

    /** Open what a link opens from the last screen, if it carries nothing but keys. */
    boolean follow(String on, String part, Map<String, Object> event) {
      if (chain().isEmpty()) return false;
      Routes.Route last = chain().get(chain().size() - 1);
      if (!event.getOrDefault("screen", last.screen()).equals(last.screen())) return false;
      Map<String, Object> wanted = Map.of("screen", last.screen(), "on", on, "part", part);
      for (Object each : list(contract.get("links"))) {
        Map<String, Object> link = map(each);
        if (!wanted.equals(link.get("from"))) continue;
        if (link.get("how").equals("replace")) return false;
        Map<String, Object> given = new LinkedHashMap<>();
        for (Object one : list(link.get("arguments"))) {
          Map<String, Object> argument = map(one);
          Object value = null;
          if (argument.get("from").equals("argument")) {
            value = last.arguments().get(argument.get("argument"));
          } else if (Boolean.TRUE.equals(argument.get("is_key"))) {
            value = event.get("key");
          }
          if (value == null) return false;
          given.put((String) argument.get("parameter"), value);
        }
        Routes.Route opened = Routes.routeOf((String) link.get("to"), given);
        demand(opened != null, link.toString());
        if (!chain().contains(opened)) chain().add(opened);
        return true;
      }
      return false;
    }
  }

  /** Whether nothing but the event itself has happened: nothing asked, refused, or by rule. */
  private static boolean isPlain(Map<String, Object> line) {
    for (Object note : list(line.get("notes"))) {
      if (!Set.of("opened", "back", "arranged").contains(map(note).get("kind"))) return false;
    }
    return line.get("question") == null;
  }

  private static void replay(Path file) throws Exception {
    StandIn app = new StandIn();
    for (String text : Files.readAllLines(file)) {
      Map<String, Object> line = map(Json.read(text));
      if (line.get("event") != null && isPlain(line) && app.take(map(line.get("event")))) {
        List<Object> wanted = list(line.get("chain"));
        demand(wanted.size() == app.chain().size(), file + ": " + line.get("event"));
        for (int at = 0; at < wanted.size(); at++) {
          Map<String, Object> entry = map(wanted.get(at));
          Routes.Route got = app.chain().get(at);
          boolean isSame = got.screen().equals(entry.get("screen"))
              && got.arguments().equals(entry.get("arguments"));
          demand(isSame, file + ": " + line.get("event") + ": " + got + " for " + entry);
        }
        compared++;
      } else if (!list(line.get("chain")).isEmpty()) {
        app.become(line);
        over++;
      }
      for (Routes.Route route : app.chain()) {
        String told = Routes.addressOf(route);
        demand(told == null || told.equals(Routes.addressOf(Routes.routeAt(told))), told);
      }
    }
  }

  /** Replays all vectors of windows with one pane, of the contract in a folder. */
  public static void main(String[] given) throws Exception {
    here = Path.of(given.length > 0 ? given[0] : "..");
    contract = map(Json.read(Files.readString(here.resolve("routes.json"))));
    String chain = "{\"section\":\"a\",\"entries\":[{\"screen\":\"no such screen\"}]}";
    String saved = "{\"section\":\"a\",\"chains\":[" + chain + "],\"values\":{\"x\":1}}";
    Routes.SavedState state = Routes.readSaved(saved);
    demand(state.chains().get(0).entries().isEmpty(), "what does not fit is dropped");
    demand(Routes.readSaved(Routes.writeSaved(state)).equals(state), "saved and read again");
    demand(Routes.readSaved("{").chains().isEmpty(), "what is no JSON is nothing");
    List<String> onePane = new ArrayList<>();
    for (Object each : list(contract.get("windows"))) {
      boolean isOne = list(map(each).get("panes")).size() == 1;
      if (isOne) onePane.add((String) map(each).get("vectors"));
    }
    try (Stream<Path> files = Files.list(here.resolve("vectors"))) {
      for (Path file : (Iterable<Path>) files.sorted()::iterator) {
        String[] parts = file.getFileName().toString().split("\\.");
        if (onePane.contains(parts[parts.length - 2])) replay(file);
      }
    }
    int steps = compared + over;
    System.out.println("compared " + compared + " of " + steps + " steps, taken over " + over);
    demand(compared > 0 && compared >= LEAST * steps, "too little was compared to say anything");
  }
}
