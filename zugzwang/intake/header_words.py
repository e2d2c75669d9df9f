"""Header words in German, French, Spanish, Italian and Dutch, in addition to the English ones of fields.py.

Common practice, no source: the headers of exports in these languages. Written as `fields.plain` returns them: lower case,
no accents, single spaces.
"""

from collections.abc import Mapping

# Concept → words. Each field names its concepts.
OTHER_WORDS: Mapping[str, tuple[str, ...]] = {
    "day": ("tag", "datum", "jour", "dia", "fecha", "giorno", "data", "dag"),
    "month": ("monat", "jahr monat", "mois", "mes", "mese", "maand"),
    "page": (
        "seite", "seiten", "haufigste seiten", "beliebteste seiten", "adresse", "pages les plus populaires",
        "pages principales", "pagina", "paginas", "paginas principales", "pagine", "pagine principali", "pagine piu frequenti",
        "pagina s", "toppagina s", "populairste pagina s", "indirizzo",
    ),
    "query": (
        "suchanfrage", "suchanfragen", "haufigste suchanfragen", "suchbegriff", "suchbegriffe", "keyword", "requete",
        "requetes", "requetes les plus frequentes", "requetes principales", "mot cle", "mots cles", "consulta", "consultas",
        "consultas principales", "palabra clave", "palabras clave", "query piu frequenti", "query principali", "parola chiave",
        "parole chiave", "zoekopdracht", "zoekopdrachten", "populairste zoekopdrachten", "zoekterm", "zoektermen", "zoekwoord",
    ),
    "device": ("gerat", "gerate", "geratekategorie", "appareil", "appareils", "categorie d appareil", "dispositivo",
               "dispositivos", "dispositivi", "categoria de dispositivo", "categoria dispositivo", "apparaat", "apparaten",
               "apparaatcategorie"),
    "country": ("land", "lander", "pays", "pais", "paises", "paese", "paesi", "landen"),
    "clicks": ("klicks", "clics", "clic", "klikken"),
    "impressions": ("impressionen", "impresiones", "impressioni", "vertoningen"),
    "position": (
        "durchschnittliche position", "durchschn position", "position moyenne", "posicion", "posicion media", "posizione",
        "posizione media", "positie", "gemiddelde positie",
    ),
    "ctr": ("klickrate", "taux de clics", "porcentaje de clics", "percentuale di clic", "klikfrequentie"),
    "landing": (
        "landingpage", "zielseite", "einstiegsseite", "page de destination", "page d entree", "pagina de destino",
        "pagina de entrada", "pagina di destinazione", "pagina di ingresso", "bestemmingspagina", "landingspagina",
    ),
    "channel": ("kanal", "standard channelgruppe", "canal", "groupe de canaux par defaut", "grupo de canales predeterminado",
                "canale", "gruppo di canali predefinito", "kanaal", "standaard kanaalgroep", "quelle medium", "source support",
                "fuente medio", "sorgente mezzo", "bron medium"),
    "sessions": ("sitzungen", "besuche", "visites", "sesiones", "visitas", "sessioni", "visite", "sessies", "bezoeken"),
    "users": ("nutzer", "nutzer insgesamt", "utilisateurs", "total des utilisateurs", "usuarios", "total de usuarios", "utenti",
              "utenti totali", "gebruikers", "totaal aantal gebruikers", "aktive nutzer", "utilisateurs actifs",
              "usuarios activos", "utenti attivi", "actieve gebruikers"),
    "bounce_rate": ("absprungrate", "taux de rebond", "porcentaje de rebote", "tasa de rebote", "frequenza di rimbalzo",
                    "bouncepercentage"),
    "engaged": ("sitzungen mit interaktionen", "sessions avec engagement", "sesiones con interaccion",
                "sessioni con coinvolgimento", "sessies met betrokkenheid"),
    "mean_seconds": ("durchschnittliche sitzungsdauer", "duree moyenne des sessions", "duracion media de la sesion",
                     "durata media sessione", "gemiddelde sessieduur"),
    "conversions": ("conversionen", "schlusselereignisse", "transaktionen", "evenements cles", "conversiones", "eventos clave",
                    "conversioni", "eventi chiave", "conversies", "belangrijke gebeurtenissen"),
    "value": ("umsatz", "gesamtumsatz", "wert", "revenu", "revenu total", "chiffre d affaires", "ingresos",
              "ingresos totales", "entrate", "entrate totali", "ricavi", "omzet", "totale omzet"),
    "status": ("statuscode", "code de reponse", "code http", "codigo de estado", "codigo de respuesta", "codice di stato",
               "codice di risposta"),
    "title": ("titel", "seitentitel", "titre", "titulo", "titolo"),
    "description": ("beschreibung", "meta beschreibung", "meta description", "descripcion", "meta descripcion", "descrizione",
                    "meta descrizione", "beschrijving", "metabeschrijving"),
    "words": ("anzahl worter", "wortanzahl", "nombre de mots", "recuento de palabras", "numero di parole", "conteggio parole",
              "aantal woorden"),
    "linking": ("verweisende seite", "quelle", "page referente", "page source", "url source", "pagina de referencia",
                "url de origen", "pagina di riferimento", "url di origine", "verwijzende pagina", "bron"),
    "linked": ("ziel", "ziel url", "url cible", "page cible", "url de destino", "url di destinazione", "doel url"),
    "anchor": ("ankertext", "texte d ancrage", "texto de anclaje", "texto ancla", "testo di ancoraggio", "ankertekst"),
    "searches": (
        "suchvolumen", "durchschn suchanfragen pro monat", "volume de recherche", "recherches mensuelles moyennes",
        "volumen de busqueda", "promedio de busquedas mensuales", "volume di ricerca", "media ricerche mensili", "zoekvolume",
        "gem maandelijkse zoekopdrachten",
    ),
}  # fmt: skip
# Headers of a table of export filters, and its names for dates.
FILTER_HEADERS = ("filter", "filtre", "filtro", "filters", "filtres", "filtros", "filtri")
DAYS_OF_FILTERS = (
    *OTHER_WORDS["day"],
    "date",
    "dates",
    "date range",
    "zeitraum",
    "periode",
    "period",
    "periodo",
    "plage de dates",
)
# Words that mark the earlier of two periods, and their difference.
EARLIER = ("previous", "before", "prior", "last year", "year ago", "year earlier", "vorheriger", "vorherige", "vorjahr",
           "precedent", "precedente", "anterior", "annee precedente", "vorige", "vorig jaar", "voorgaande")  # fmt: skip
DIFFERENCE = ("difference", "change", "delta", "diff", "differenz", "unterschied", "anderung", "variation", "diferencia",
              "variacion", "differenza", "variazione", "verschil", "wijziging")  # fmt: skip
# Month names in plain letters, with common abbreviations → number.
MONTHS = {
    name: number
    for number, names in enumerate(
        (
            "jan|january|januar|janvier|janv|enero|ene|gennaio|gen|januari",
            "feb|february|februar|fevrier|fev|fevr|febrero|febbraio|februari",
            "mar|march|marz|mars|marzo|maart|mrt|mrz",
            "apr|april|avril|avr|abril|abr|aprile",
            "may|mai|mayo|maggio|mag|mei",
            "jun|june|juni|juin|junio|giugno|giu",
            "jul|july|juli|juillet|juil|julio|luglio|lug",
            "aug|august|aout|agosto|ago|augustus",
            "sep|sept|september|septembre|septiembre|settembre|set",
            "oct|october|okt|oktober|octobre|octubre|ottobre|ott",
            "nov|november|novembre|noviembre",
            "dec|december|dez|dezember|decembre|diciembre|dic|dicembre",
        ),
        start=1,
    )
    for name in names.split("|")
}
