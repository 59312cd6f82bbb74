
  /** The address of a route; null where its screen has none, or a value of it is missing. */
  public static String addressOf(Route route) {
    Map<String, String> words = new LinkedHashMap<>();
    route.arguments().forEach((name, value) -> words.put(name, Address.word(value)));
    for (String[] each : ADDRESSES) {
      String address = each[1].equals(route.screen()) ? Address.told(each[0], words) : null;
      if (address != null) return address;
    }
    return null;
  }

  /** The route that an address leads to; null where there is none. */
  public static Route routeAt(String address) {
    for (String[] each : ADDRESSES) {
      Map<String, String> words = Address.read(each[0], address);
      if (words == null) continue;
      Map<String, Object> given = new LinkedHashMap<>();
      typesOf(each[1]).forEach((name, type) -> {
        Object value = Address.valueOf(words.get(name), type);
        if (value != null) given.put(name, value);
      });
      Route route = routeOf(each[1], given);
      if (route != null) return route;
    }
    return null;
  }

  /** A route of what came; null where there is no such screen, or an argument does not fit. */
  public static Route routeOf(String screen, Map<String, Object> came) {
    Map<String, String> types = typesOf(screen);
    if (types == null || !types.keySet().containsAll(came.keySet())) return null;
    Map<String, Object> given = new LinkedHashMap<>();
    for (Map.Entry<String, Object> each : came.entrySet()) {
      Object value = Address.fitting(each.getValue(), types.get(each.getKey()));
      if (value == null) return null;
      given.put(each.getKey(), value);
    }
    return made(screen, given);
  }

  /** One open screen as it is saved; what else is kept of it stays as it came. */
  public record Entry(Route route, String opened, Map<String, Object> rest) {}

  public record Chain(String section, List<Entry> entries, boolean asked) {}

  public record SavedState(
      String section, List<Chain> chains, Map<String, Object> values, List<Object> stored) {}

  /** What is saved, as JSON text. */
  public static String writeSaved(SavedState state) {
    List<Object> chains = new ArrayList<>();
    for (Chain chain : state.chains()) {
      List<Object> entries = new ArrayList<>();
      for (Entry entry : chain.entries()) {
        Map<String, Object> said = new LinkedHashMap<>(entry.rest());
        said.put("screen", entry.route().screen());
        said.put("arguments", entry.route().arguments());
        said.put("opened", entry.opened());
        entries.add(said);
      }
      Map<String, Object> said = new LinkedHashMap<>();
      said.put("section", chain.section());
      said.put("entries", entries);
      said.put("asked", chain.asked());
      chains.add(said);
    }
    Map<String, Object> tree = new LinkedHashMap<>();
    tree.put("section", state.section());
    tree.put("chains", chains);
    tree.put("values", state.values());
    tree.put("stored", state.stored());
    return Json.write(tree);
  }

  /** What was saved, trusting nothing: an entry that does not fit is dropped with those after. */
  public static SavedState readSaved(String text) {
    Map<String, Object> came;
    try {
      came = objectOf(Json.read(text));
    } catch (RuntimeException error) {
      came = Map.of();
    }
    List<Chain> chains = new ArrayList<>();
    for (Object each : listOf(came.get("chains"))) {
      Map<String, Object> chain = objectOf(each);
      List<Entry> entries = new ArrayList<>();
      for (Object one : listOf(chain.get("entries"))) {
        Map<String, Object> rest = new LinkedHashMap<>(objectOf(one));
        Object given = rest.remove("arguments");
        Route route = routeOf(textOf(rest.remove("screen"), ""), objectOf(given));
        if (route == null) break;
        entries.add(new Entry(route, textOf(rest.remove("opened"), "push"), rest));
      }
      boolean asked = Boolean.TRUE.equals(chain.get("asked"));
      chains.add(new Chain(textOf(chain.get("section"), ""), entries, asked));
    }
    String section = textOf(came.get("section"), "");
    return new SavedState(
        section, chains, objectOf(came.get("values")), listOf(came.get("stored")));
  }

  private static String textOf(Object came, String otherwise) {
    return came instanceof String text ? text : otherwise;
  }

  @SuppressWarnings("unchecked")
  private static Map<String, Object> objectOf(Object came) {
    return came instanceof Map ? (Map<String, Object>) came : Map.of();
  }

  @SuppressWarnings("unchecked")
  private static List<Object> listOf(Object came) {
    return came instanceof List ? (List<Object>) came : List.of();
  }
}
