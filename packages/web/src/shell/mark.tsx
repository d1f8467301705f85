import { Link } from "react-router";

/** Yelm's name, which leads home. */
export function Mark() {
  return (
    <Link to="/" aria-label="Yelm, all rolls" className="pr-2 font-serif text-[20px] leading-none font-semibold">
      Yelm
    </Link>
  );
}
