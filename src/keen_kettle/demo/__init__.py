"""The made-up surf-rescue club: its athletes, its rendered clips, and laying them out."""

from keen_kettle.demo.club import CLIPS_FOLDER, lay_out_demo, lay_out_people, render_demo_clips

__all__ = ["CLIPS_FOLDER", "lay_out_demo", "lay_out_people", "render_demo_clips"]
